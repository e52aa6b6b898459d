import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useIsMutating } from "@tanstack/react-query";

import type { PropDetail } from "../../api/client";
import { nearestHalfEdge } from "../../surface/select";
import { BREAKS, DIFFERS } from "../../surface/sheet";
import { before, isCut, isOutline, segments, type Surface } from "../../surface/surface";
import { makeFanLevel, type SurfaceLevel } from "../../viewport/surfaceLevel";
import type { SurfaceHit } from "../../viewport/useSurfaceHits";
import { useDisposed } from "../../viewport/useSheet";
import { MarkPlaces } from "../../viewport/marks";
import type { Decide } from "../bench";

export type CutView = "chosen" | "fan" | "difference";

interface CutsInput {
  prop: PropDetail;
  level: SurfaceLevel | null;
  radius: number;
  decide: Decide;
}

/** The polygons' cuts: as chosen, as an engine's fan would have them, and where these differ; and turning a diagonal. */
export function useCuts({ prop, level: active, radius, decide }: CutsInput) {
  const [view, setView] = useState<CutView>("chosen");
  const [aim, setAim] = useState<number | null>(null);
  const matrix = prop.facts.placement?.matrix;
  const fan = useMemo(() => (active ? makeFanLevel(active) : null), [active]);
  useDisposed(fan);
  const places = useMemo(
    () => (active ? new MarkPlaces(active.surface, matrix, radius) : null),
    [active, matrix, radius],
  );
  useEffect(() => setAim(null), [active]);

  const lines = useMemo(() => (active ? linesOf(active.surface) : null), [active]);
  const differing = useMemo(
    () => triangles(active?.surface, (bits) => (bits & DIFFERS) > 0 && (bits & BREAKS) === 0),
    [active],
  );
  const breaking = useMemo(() => triangles(active?.surface, (bits) => (bits & BREAKS) > 0), [active]);

  const settings = prop.settings.triangulation.flipped_diagonals;
  const busy = useIsMutating();
  const wanted = useRef(settings);
  useEffect(() => {
    if (busy === 0) wanted.current = settings;
  }, [settings, busy]);

  const onHover = useCallback(
    (hit: SurfaceHit | null) =>
      setAim(
        hit && active
          ? nearestHalfEdge(active.surface, hit.triangle, hit.point, (c) => isCut(active.surface, c))
          : null,
      ),
    [active],
  );
  const onPick = useCallback(
    (hit: SurfaceHit) => {
      if (!active || !places) return;
      const c = nearestHalfEdge(active.surface, hit.triangle, hit.point, (h) => isCut(active.surface, h));
      if (c === null) return;
      const [a, b] = [before(c), before(active.surface.sheet.twin[c]!)];
      const gone = places.keyOfEdge(c);
      const turned = [...wanted.current.filter((mark) => places.keyOf(mark) !== gone), places.diagonal(a, b)];
      wanted.current = turned;
      setAim(null);
      decide("triangulation", { flipped_diagonals: turned });
    },
    [active, places, decide],
  );
  const aimLines = useMemo(() => {
    if (aim === null || !active) return null;
    const { positions, sheet } = active.surface;
    const [a, b] = [before(aim), before(sheet.twin[aim]!)];
    const turned = new Float32Array([...positions.subarray(3 * a, 3 * a + 3), ...positions.subarray(3 * b, 3 * b + 3)]);
    return { now: segments(active.surface, [aim]), turned };
  }, [aim, active]);
  return {
    view,
    setView,
    fan,
    lines,
    differing,
    breaking,
    aimLines,
    onHover,
    onPick,
    turned: settings.length,
    isReady: active !== null,
  };
}

export type Cuts = ReturnType<typeof useCuts>;

function triangles(surface: Surface | undefined, asks: (bits: number) => boolean): number[] {
  const out: number[] = [];
  const cut = surface?.sheet.cut;
  if (cut) for (let t = 0; t < cut.length; t += 1) if (asks(cut[t]!)) out.push(t);
  return out;
}

/** Outlines of polygons, the diagonals of the cut, and those of the fans where they are others. */
function linesOf(surface: Surface): {
  outlines: Float32Array;
  diagonals: Float32Array;
  fans: Float32Array;
  changed: Float32Array;
} {
  const { sheet, positions } = surface;
  const outlines: number[] = [];
  const diagonals: number[] = [];
  const changed: number[] = [];
  for (let c = 0; c < 3 * surface.triangles; c += 1) {
    if (isOutline(surface, c)) outlines.push(c);
    else if (isCut(surface, c) && sheet.twin[c]! > c) {
      diagonals.push(c);
      if (sheet.cut && sheet.cut[Math.floor(c / 3)]! & DIFFERS) changed.push(c);
    }
  }
  const fans: number[] = [];
  if (sheet.fan && sheet.cut) {
    for (let t = 0; t + 1 < surface.triangles; t += 1) {
      if (!(sheet.cut[t]! & DIFFERS) || sheet.polygon[t] !== sheet.polygon[t + 1]) continue;
      for (const corner of [sheet.fan[3 * t]!, sheet.fan[3 * t + 2]!])
        fans.push(...positions.subarray(3 * corner, 3 * corner + 3));
    }
  }
  return {
    outlines: segments(surface, outlines),
    diagonals: segments(surface, diagonals),
    changed: segments(surface, changed),
    fans: new Float32Array(fans),
  };
}
