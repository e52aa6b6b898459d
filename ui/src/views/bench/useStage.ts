import { useMemo } from "react";
import { Matrix4, type Vector3 } from "three";

import type { PropDetail } from "../../api/client";
import type { LoadedLevel, LoadedModel } from "../../viewport/model";
import { useBeforeAndAfter, useSourceModel } from "../../viewport/source";
import type { Hit } from "../../viewport/Picker";
import type { StationName } from "./summaries";

interface StageInput {
  prop: PropDetail | undefined;
  station: StationName;
  model: LoadedModel | null;
  selected: string | null;
  left: number;
  right: number;
  split: number | null;
  /** LOD0 taken apart, for the stations that work on its corners. */
  surface: LoadedLevel | null;
  /** The polygons cut as an engine's fans would, and which of the two cuts is looked at. */
  fan: LoadedLevel | null;
  showsFan: boolean;
  /** The level that the slider replays, and whether it is in sight. */
  descent: LoadedLevel | null;
  showsDescent: boolean;
}

interface StageOutput {
  /** What is on the stage: the whole source, the prop before and after its cleanup, the two cuts, or its levels. */
  kind: "source" | "cleanup" | "cuts" | "levels";
  model: LoadedModel | null;
  left: number;
  right: number;
  split: number | null;
  last: number;
  shownLeft: number;
  shownRight: number;
}

const NOTHING: number[] = [];

/** What the view draws for the open station. */
export function useStage({ prop, station, model, selected, left, right, split, surface, fan, showsFan, descent, showsDescent }: StageInput): StageOutput {
  const matrix = (prop?.facts.placement as { matrix?: number[] } | undefined)?.matrix;
  const url = prop?.source_model ?? null;
  const ships = useMemo(() => prop?.parts.map((part) => part.ships) ?? [], [prop?.parts]);
  const own = (prop?.facts.own as number[] | undefined) ?? NOTHING;
  const shown = useMemo(() => (own.length && own.length < ships.length ? ships.map((on, i) => on && own.includes(i)) : ships), [own, ships]);
  const number = selected === null ? -1 : (prop?.parts.findIndex((part) => part.path === selected) ?? -1);
  const source = useSourceModel({ url: station === "source" ? url : null, matrix }, shown, number < 0 ? null : number);
  const both = useBeforeAndAfter({ url: station === "cleanup" ? url : null, matrix }, own, model);
  const apart = useMemo(() => (model && surface ? { ...model, levels: [surface, ...model.levels.slice(1)] } : null), [model, surface]);
  const cuts = useMemo(() => (model && surface ? { ...model, levels: [fan ?? surface, surface] } : null), [model, surface, fan]);
  const withDescent = useMemo(() => (model && descent ? { ...model, levels: [...model.levels, descent] } : null), [model, descent]);
  const last = (model?.levels.length ?? 1) - 1;
  const levels = { last, shownLeft: Math.min(left, last), shownRight: Math.min(right, last) };
  if (station === "source" && source) return { kind: "source", model: source, left: 0, right: 0, split: null, ...levels };
  if (station === "cleanup" && both) return { kind: "cleanup", model: both, left: split === null ? 1 : 0, right: 1, split, ...levels };
  if (station === "triangulation" && cuts) return { kind: "cuts", model: cuts, left: split !== null || showsFan ? 0 : 1, right: 1, split: fan ? split : null, ...levels };
  if (station === "normals" && apart) return { kind: "levels", model: apart, left: levels.shownLeft, right: levels.shownRight, split, ...levels };
  if (station === "levels" && withDescent) {
    const at = last + 1;
    const one = split === null ? at : 0;
    return { kind: "levels", model: withDescent, left: showsDescent ? one : levels.shownLeft, right: showsDescent ? at : levels.shownRight, split, ...levels };
  }
  return { kind: "levels", model, left: levels.shownLeft, right: levels.shownRight, split, ...levels };
}

/** A point of the view, in metres, in the source's own units and axes. */
export function toSource(point: Vector3, matrix: number[] | undefined): [number, number, number] | null {
  if (matrix?.length !== 16) return null;
  const { x, y, z } = point.clone().applyMatrix4(new Matrix4().set(...(matrix as Parameters<Matrix4["set"]>)).invert());
  return [x, y, z].map((value) => Number(value.toPrecision(9))) as [number, number, number];
}

/** The clicked place of a face and the side it faces, in the source's own units and axes. */
export function protectedSpot(hit: Hit, matrix: number[] | undefined): { point: number[]; facing: number[] } | null {
  const point = toSource(hit.point, matrix);
  if (!point || matrix?.length !== 16) return null;
  const [a, b, c] = hit.corners;
  const facing = b.clone().sub(a).cross(c.clone().sub(a));
  const back = new Matrix4().set(...(matrix as Parameters<Matrix4["set"]>)).invert();
  return { point, facing: facing.transformDirection(back).toArray().map((value) => Number(value.toPrecision(9))) };
}
