import { useIsMutating } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import type { PropDetail } from "../../api/client";
import {
  aboveAngle,
  borderOf,
  edgeAt,
  edgeLoop,
  edgesWhere,
  type Grow,
  islandBorders,
  materialBorders,
  patchAt,
  polygonTriangles,
} from "../../surface/select";
import type { LiveShading } from "../../surface/shading";
import { cliffsOf } from "../../surface/cliffs";
import { isOutline, segments } from "../../surface/surface";
import type { SurfaceHit } from "../../viewport/useSurfaceHits";
import type { SurfaceLevel } from "../../viewport/surfaceLevel";
import type { Decide, Settings } from "../bench";
import { type EdgeMark, MarkPlaces } from "../../viewport/marks";
import { useLiveShading } from "./useLiveShading";

export type Tool = "edge" | "loop" | "border" | "patch" | "flip";
export type Act = "hard" | "soft" | "clear";
export type Scope = "face" | "patch" | "shell";
export type Sweep = "above" | "islands" | "materials";

type Normals = Settings["normals"];
type PatchMark = Normals["patches"][number];

/** What a click would take: its edges, the triangles of a patch, and what it costs. */
export interface Aim {
  /** The edge or the patch that it grew from: the pointer moves over it without a new search. */
  seed: number | Set<number> | null;
  edges: number[];
  triangles: Set<number> | null;
  text: string;
}

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
  const settings = prop.settings.normals;
  const turned = prop.settings.cleanup.flipped;
  const matrix = prop.facts.placement?.matrix;

  const { live, show, revision } = useLiveShading(prop, active, angle);
  const places = useMemo(
    () => (active ? new MarkPlaces(active.surface, matrix, radius) : null),
    [active, matrix, radius],
  );

  // Clicks may come faster than answers: each builds on what the one before asked for.
  const busy = useIsMutating();
  const wanted = useRef({ normals: settings, turned });
  useEffect(() => {
    if (busy === 0) wanted.current = { normals: settings, turned };
  }, [settings, turned, busy]);

  const target = useCallback(
    (hit: SurfaceHit | null): Aim | null => {
      if (!hit || !active || !tool) return null;
      const { surface } = active;
      if (tool === "edge" || tool === "loop") {
        const seed = edgeAt(surface, hit.triangle, hit.point);
        if (seed === null) return null;
        const edges = tool === "edge" ? [seed] : edgeLoop(surface, seed);
        return { seed, edges, triangles: null, text: "" };
      }
      const turns = tool === "flip";
      const by = turns ? (scope === "shell" ? "shell" : "angle") : grow;
      const triangles =
        turns && scope === "face"
          ? new Set(polygonTriangles(surface, hit.triangle))
          : patchAt(surface, hit.triangle, by, growAngle);
      return {
        seed: triangles,
        edges: borderOf(surface, triangles),
        triangles: tool === "border" ? null : triangles,
        text: "",
      };
    },
    [active, tool, grow, growAngle, scope],
  );

  const onHover = useCallback(
    (hit: SurfaceHit | null) => {
      const seed = current.current?.seed;
      if (hit && active && seed instanceof Set && seed.has(hit.triangle)) return;
      if (hit && active && typeof seed === "number" && edgeAt(active.surface, hit.triangle, hit.point) === seed) return;
      const next = target(hit);
      if (!next) return setAim(null);
      setAim({ ...next, text: tool && live && active ? wordsFor(tool, act, next, live, active) : "" });
    },
    [target, tool, act, live, active],
  );

  const markEdges = useCallback(
    (edges: number[], as: Act, patches?: PatchMark[]) => {
      const now = wanted.current.normals;
      if (!places || !active || !live) return;
      const closed = edges.filter((c) => active.surface.sheet.twin[c]! >= 0);
      const taken = new Set(closed.map((c) => places.keyOfEdge(c)));
      const keep = (marks: EdgeMark[]) => marks.filter((mark) => !taken.has(places.keyOf(mark) ?? ""));
      const fresh = patches ? [] : closed.map((c) => places.edge(c));
      const hard = as === "hard" ? [...keep(now.hard), ...fresh] : keep(now.hard);
      const soft = as === "soft" ? [...keep(now.soft), ...fresh] : keep(now.soft);
      const next = { ...now, hard, soft, patches: patches ?? now.patches };
      wanted.current = { ...wanted.current, normals: next };
      live.mark(closed, as);
      show();
      decide("normals", patches ? { hard, soft, patches: next.patches } : { hard, soft });
    },
    [places, active, live, decide, show],
  );

  const onPick = useCallback(
    (hit: SurfaceHit) => {
      const found = target(hit);
      const now = wanted.current;
      if (!found || !places || !active || !tool) return;
      if (tool === "flip") {
        const spot = places.spot(hit.triangle);
        const same = now.turned.findIndex(
          (mark) => mark.scope === scope && places.distance(mark.point, spot.point) < radius * 1e-4,
        );
        const next =
          same >= 0 ? now.turned.filter((_, i) => i !== same) : [...now.turned, { ...spot, scope, angle: growAngle }];
        wanted.current = { ...now, turned: next };
        decide("cleanup", { flipped: next });
      } else if (tool === "patch") {
        const { surface } = active;
        const inside = found.triangles ?? new Set<number>();
        const edges = edgesWhere(surface, (c, d) => inside.has(Math.floor(c / 3)) && inside.has(Math.floor(d / 3)));
        const spot = places.spot(hit.triangle);
        const others = now.normals.patches.filter(
          (patch) => patch.by !== grow || places.distance(patch.point, spot.point) > radius * 1e-4,
        );
        const patches: PatchMark[] =
          act === "clear"
            ? others
            : [...others, { ...spot, by: grow, angle: growAngle, inside: act === "hard" ? "hard" : "soft" }];
        markEdges(edges, act, patches);
      } else {
        markEdges(found.edges, act);
      }
      setAim(null);
    },
    [target, places, active, tool, scope, growAngle, grow, act, radius, decide, markEdges],
  );

  /** Mark all edges of a kind at once. */
  const sweep = useCallback(
    (kind: Sweep, as: Act) => {
      if (active) markEdges(edgesOf(active, kind, angle), as);
    },
    [active, angle, markEdges],
  );
  const aimSweep = useCallback(
    (kind: Sweep | null) => {
      if (!active || !kind) return setAim(null);
      const edges = edgesOf(active, kind, angle);
      setAim({ seed: null, edges, triangles: null, text: "" });
    },
    [active, angle],
  );

  const hard = useMemo(() => {
    const edges = active && live ? [...hardEdges(active, live)] : [];
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

function edgesOf({ surface }: SurfaceLevel, kind: Sweep, angle: number): number[] {
  return kind === "above"
    ? aboveAngle(surface, angle)
    : kind === "islands"
      ? islandBorders(surface)
      : materialBorders(surface);
}

function* hardEdges({ surface }: SurfaceLevel, live: LiveShading): Generator<number> {
  const { twin } = surface.sheet;
  for (let c = 0; c < twin.length; c += 1) if (twin[c]! > c && !live.isSmooth(c) && isOutline(surface, c)) yield c;
}

const MOST_COSTED = 40_000;

function wordsFor(tool: Tool, act: Act, aim: Aim, live: LiveShading, { surface }: SurfaceLevel): string {
  if (tool === "flip") return `flip ${aim.triangles?.size ?? 0} triangles`;
  const edges =
    tool === "patch" && aim.triangles
      ? edgesWhere(surface, (c, d) => aim.triangles!.has(Math.floor(c / 3)) && aim.triangles!.has(Math.floor(d / 3)))
      : aim.edges.filter((c) => surface.sheet.twin[c]! >= 0);
  const what =
    tool === "patch"
      ? `${aim.triangles?.size ?? 0} triangles`
      : `${edges.length} ${edges.length === 1 ? "edge" : "edges"}`;
  if (edges.length > MOST_COSTED) return what;
  const change = live.costOf(edges, act);
  return `${what} · ${change > 0 ? "+" : change < 0 ? "−" : "±"}${Math.abs(change)} engine vertices`;
}
