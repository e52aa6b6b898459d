import { useIsMutating } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import type { PropDetail } from "../../api/client";
import { edgeAt, edgeLoop } from "../../surface/select";
import { segments } from "../../surface/surface";
import { trianglesOf, type UvIslands } from "../../surface/uvs";
import { type EdgeMark, MarkPlaces, type SpotMark } from "../../viewport/marks";
import type { SurfaceLevel } from "../../viewport/surfaceLevel";
import type { SurfaceHit } from "../../viewport/useSurfaceHits";
import type { Decide, Settings } from "../bench";

export type UvTool = "seam" | "loop" | "straight";
type Uvs = Settings["uvs"];

interface UvMarksInput {
  prop: PropDetail;
  level: SurfaceLevel | null;
  channel: UvIslands | null;
  radius: number;
  decide: Decide;
}

/** What marks need to have an effect: something that is made. */
const making = ({ method }: Uvs, wanted: Uvs["method"]): Partial<Uvs> =>
  method === "source" ? { method: wanted } : {};

const isInner = ({ surface }: SurfaceLevel, c: number): boolean => (surface.sheet.twin[c] ?? -1) >= 0;

/** Seams and straight strips marked on the model, and what is asked of single islands. */
export function useUvMarks({ prop, level, channel, radius, decide }: UvMarksInput) {
  const [tool, setTool] = useState<UvTool | null>(null);
  const [aim, setAim] = useState<number[]>([]);
  useEffect(() => setAim([]), [tool, level]);
  const settings = prop.settings.uvs;
  const matrix = prop.facts.placement?.matrix;
  const places = useMemo(() => (level ? new MarkPlaces(level.surface, matrix, radius) : null), [level, matrix, radius]);

  // Clicks may come faster than answers: each builds on what the one before asked for.
  const busy = useIsMutating();
  const wanted = useRef(settings);
  useEffect(() => {
    if (busy === 0) wanted.current = settings;
  }, [settings, busy]);
  const ask = useCallback(
    (changes: Partial<Uvs>) => {
      wanted.current = { ...wanted.current, ...changes };
      decide("uvs", changes);
    },
    [decide],
  );

  const target = useCallback(
    (hit: SurfaceHit | null): number[] => {
      if (!hit || !level || !tool) return [];
      const edge = edgeAt(level.surface, hit.triangle, hit.point);
      if (edge === null) return [];
      const edges = tool === "loop" ? edgeLoop(level.surface, edge) : [edge];
      return edges.filter((c) => isInner(level, c));
    },
    [level, tool],
  );
  const onHover = useCallback((hit: SurfaceHit | null) => setAim(target(hit)), [target]);
  const onPick = useCallback(
    (hit: SurfaceHit) => {
      const edges = target(hit);
      if (!edges.length || !places || !tool) return;
      const key = tool === "straight" ? "straight" : "seams";
      const now = wanted.current[key] as EdgeMark[];
      const taken = new Set(edges.map((c) => places.keyOfEdge(c)));
      const there = new Set(now.map((mark) => places.keyOf(mark)));
      const others = now.filter((mark) => !taken.has(places.keyOf(mark) ?? ""));
      // Where all of them are marked already the click takes the marks away.
      const isMarked = [...taken].every((name) => there.has(name));
      const marks = isMarked ? others : [...others, ...edges.map((c) => places.edge(c))];
      ask({ [key]: marks, ...making(wanted.current, "unwrap") });
      setAim([]);
    },
    [target, places, tool, ask],
  );

  const drawn = useMemo(() => {
    const lines = (marks: EdgeMark[]): Float32Array => {
      if (!level || !places || !marks.length) return new Float32Array();
      const keys = new Set(marks.map((mark) => places.keyOf(mark)));
      const edges: number[] = [];
      level.surface.sheet.twin.forEach((d, c) => {
        if (d > c && keys.has(places.keyOfEdge(c))) edges.push(c);
      });
      return segments(level.surface, edges);
    };
    return { seams: lines(settings.seams as EdgeMark[]), straight: lines(settings.straight as EdgeMark[]) };
  }, [level, places, settings.seams, settings.straight]);
  const aimLines = useMemo(() => (level ? segments(level.surface, aim) : new Float32Array()), [level, aim]);

  /** Whether a mark lies on one of the triangles. */
  const lies = useCallback(
    (mark: SpotMark, triangles: number[]): boolean =>
      places !== null && triangles.some((t) => places.distance(mark.point, places.spot(t).point) < radius * 1e-4),
    [places, radius],
  );
  const island = useCallback(
    (number: number) => {
      const triangles = channel ? trianglesOf(channel, number) : [];
      const on = (mark: SpotMark): boolean => lies(mark, triangles);
      const [first] = triangles;
      const spot = (): SpotMark | null => (places && first !== undefined ? places.spot(first) : null);
      return {
        weight: (settings.weights as (SpotMark & { weight: number })[]).find(on)?.weight ?? 1,
        isLocked: (settings.locked as SpotMark[]).some(on),
        setWeight: (weight: number) => {
          const at = spot();
          if (!at) return;
          const others = (wanted.current.weights as (SpotMark & { weight: number })[]).filter((mark) => !on(mark));
          ask({
            weights: weight === 1 ? others : [...others, { ...at, weight }],
            ...making(wanted.current, "repack"),
          });
        },
        setLocked: (locks: boolean) => {
          const at = spot();
          if (!at) return;
          const others = (wanted.current.locked as SpotMark[]).filter((mark) => !on(mark));
          ask({ locked: locks ? [...others, at] : others, ...making(wanted.current, "repack") });
        },
      };
    },
    [channel, lies, places, settings.weights, settings.locked, ask],
  );

  return { tool, setTool, onHover, onPick, drawn, aimLines, aimed: aim.length, island };
}

export type UvMarks = ReturnType<typeof useUvMarks>;
