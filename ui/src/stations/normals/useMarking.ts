import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import type { PropDetail } from "../../api/client";
import { cliffsOf } from "../../surface/cliffs";
import type { Grow } from "../../surface/select";
import { segments } from "../../surface/surface";
import type { SurfaceLevel } from "../../viewport/surfaceLevel";
import type { SurfaceHit } from "../../viewport/useSurfaceHits";
import type { Decide } from "../bench";
import {
  type Act,
  type Aim,
  aimAt,
  aimInWords,
  edgesOf,
  hardEdges,
  isStillAt,
  type Scope,
  type Sweep,
  type Tool,
} from "./aims";
import { useLiveShading } from "./useLiveShading";
import { useNormalMarks } from "./useNormalMarks";

interface MarkingInput {
  prop: PropDetail;
  level: SurfaceLevel | null;
  radius: number;
  angle: number;
  decide: Decide;
}

/** Live normals of LOD0, and marking its edges, patches and faces by hand. */
export function useMarking({ prop, level: active, radius, angle, decide }: MarkingInput) {
  const [tool, setTool] = useState<Tool | null>(null);
  const [act, setAct] = useState<Act>("hard");
  const [grow, setGrow] = useState<Grow>("angle");
  const [growAngle, setGrowAngle] = useState(20);
  const [scope, setScope] = useState<Scope>("face");
  const [aim, setAim] = useState<Aim | null>(null);
  const current = useRef(aim);
  current.current = aim;
  useEffect(() => setAim(null), [tool, active, act, grow, growAngle, scope]);
  const hand = useMemo(() => ({ tool, grow, growAngle, scope }), [tool, grow, growAngle, scope]);
  const { live, show, revision } = useLiveShading(prop, active, angle);
  const { markEdges, markPatch, flip } = useNormalMarks({ prop, level: active, radius, live, show, decide });

  const onHover = useCallback(
    (hit: SurfaceHit | null) => {
      if (!hit || !active) return setAim(null);
      const { surface } = active;
      if (current.current && isStillAt(surface, current.current, hit)) return;
      const next = aimAt(surface, hand, hit);
      setAim(next && { ...next, text: hand.tool && live ? aimInWords(hand.tool, act, next, live, surface) : "" });
    },
    [hand, act, live, active],
  );

  const onPick = useCallback(
    (hit: SurfaceHit) => {
      const found = active && aimAt(active.surface, hand, hit);
      if (!found) return;
      if (hand.tool === "flip") flip(hit.triangle, hand);
      else if (hand.tool === "patch") markPatch(hit.triangle, found.triangles ?? new Set(), hand, act);
      else markEdges(found.edges, act);
      setAim(null);
    },
    [active, hand, act, flip, markPatch, markEdges],
  );

  /** Mark all edges of a kind at once. */
  const sweep = useCallback(
    (kind: Sweep, as: Act) => {
      if (active) markEdges(edgesOf(active.surface, kind, angle), as);
    },
    [active, angle, markEdges],
  );
  const aimSweep = useCallback(
    (kind: Sweep | null) => {
      if (!active || !kind) return setAim(null);
      setAim({ seed: null, edges: edgesOf(active.surface, kind, angle), triangles: null, text: "" });
    },
    [active, angle],
  );

  const hard = useMemo(() => {
    const edges = active && live ? hardEdges(active.surface, live) : [];
    return { count: edges.length, cliffs: active ? cliffsOf(active.surface, edges, 0.03 * radius) : null };
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [active, live, revision, radius]);
  const aimLines = useMemo(
    () => (aim && active ? segments(active.surface, aim.edges) : new Float32Array()),
    [aim, active],
  );

  return {
    tool,
    setTool,
    act,
    setAct,
    grow,
    setGrow,
    growAngle,
    setGrowAngle,
    scope,
    setScope,
    aim,
    aimLines,
    cliffs: hard.cliffs,
    hardCount: hard.count,
    cost: live && prop.levels[0] ? prop.levels[0].vertices + live.change : null,
    hardCost: live ? Math.max((prop.facts.normals?.hard_cost ?? 0) + live.change, 0) : null,
    revision,
    onHover,
    onPick,
    sweep,
    aimSweep,
    isReady: active !== null,
  };
}

export type Marking = ReturnType<typeof useMarking>;
