import { useIsMutating } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef } from "react";

import type { PropDetail } from "../../api/client";
import type { LiveShading } from "../../surface/shading";
import { type EdgeMark, MarkPlaces } from "../../viewport/marks";
import type { SurfaceLevel } from "../../viewport/surfaceLevel";
import type { Decide, Settings } from "../bench";
import { type Act, edgesWithin, type Hand } from "./aims";

type PatchMark = Settings["normals"]["patches"][number];

/** How far apart marks on one place may lie, against the prop's radius. */
const SAME = 1e-4;

interface NormalMarksInput {
  prop: PropDetail;
  level: SurfaceLevel | null;
  radius: number;
  live: LiveShading | null;
  /** Draw the shading as it is now. */
  show: () => void;
  decide: Decide;
}

/** Marks by hand on edges, patches and faces: decided, and seen at once in the live shading. */
export function useNormalMarks({ prop, level, radius, live, show, decide }: NormalMarksInput) {
  const settings = prop.settings.normals;
  const turned = prop.settings.cleanup.flipped;
  const matrix = prop.facts.placement?.matrix;
  const places = useMemo(() => (level ? new MarkPlaces(level.surface, matrix, radius) : null), [level, matrix, radius]);

  // Clicks may come faster than answers: each builds on what the one before asked for.
  const busy = useIsMutating();
  const wanted = useRef({ normals: settings, turned });
  useEffect(() => {
    if (busy === 0) wanted.current = { normals: settings, turned };
  }, [settings, turned, busy]);

  const markEdges = useCallback(
    (edges: number[], as: Act, patches?: PatchMark[]) => {
      const now = wanted.current.normals;
      if (!places || !level || !live) return;
      const closed = edges.filter((c) => level.surface.sheet.twin[c]! >= 0);
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
    [places, level, live, decide, show],
  );

  /** Marks the patch that grew from a triangle, in the place of one that grew there the same way. */
  const markPatch = useCallback(
    (triangle: number, triangles: ReadonlySet<number>, { grow, growAngle }: Hand, as: Act) => {
      if (!places || !level) return;
      const spot = places.spot(triangle);
      const others = wanted.current.normals.patches.filter(
        (patch) => patch.by !== grow || places.distance(patch.point, spot.point) > radius * SAME,
      );
      const patch: PatchMark = { ...spot, by: grow, angle: growAngle, inside: as === "hard" ? "hard" : "soft" };
      markEdges(edgesWithin(level.surface, triangles), as, as === "clear" ? others : [...others, patch]);
    },
    [places, level, radius, markEdges],
  );

  /** Flips what is around a triangle, or turns it back where that was flipped before. */
  const flip = useCallback(
    (triangle: number, { scope, growAngle }: Hand) => {
      if (!places) return;
      const now = wanted.current;
      const spot = places.spot(triangle);
      const same = now.turned.findIndex(
        (mark) => mark.scope === scope && places.distance(mark.point, spot.point) < radius * SAME,
      );
      const next =
        same >= 0 ? now.turned.filter((_, i) => i !== same) : [...now.turned, { ...spot, scope, angle: growAngle }];
      wanted.current = { ...now, turned: next };
      decide("cleanup", { flipped: next });
    },
    [places, radius, decide],
  );
  return { markEdges, markPatch, flip };
}
