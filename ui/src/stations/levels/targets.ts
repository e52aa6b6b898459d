import type { PropDetail } from "../../api/client";
import type { Settings } from "../bench";

/** How far one level goes, and what it does otherwise than its chain. */
export type Target = Settings["levels"]["levels"][number];
export type Limit = "ratio" | "triangles" | "vertices" | "tolerance" | "tolerance_mm" | "pixels";

export const LIMITS: { value: Limit; unit: string; words: string; start: (prop: PropDetail) => number }[] = [
  { value: "ratio", unit: "% tris", words: "percent of LOD0's triangles", start: () => 0.25 },
  {
    value: "triangles",
    unit: "tris",
    words: "triangles",
    start: (prop) => Math.round((prop.levels[0]?.triangles ?? 1000) / 4),
  },
  {
    value: "vertices",
    unit: "verts",
    words: "engine vertices",
    start: (prop) => Math.round((prop.levels[0]?.vertices ?? 1000) / 4),
  },
  { value: "tolerance", unit: "% dev.", words: "maximum deviation in percent of the diagonal", start: () => 0.5 },
  { value: "tolerance_mm", unit: "mm dev.", words: "maximum deviation in millimetres", start: () => 2 },
  { value: "pixels", unit: "px dev.", words: "maximum pixel error", start: () => 1 },
];

/** A target with what it does not say left open. */
export function target(given: Partial<Target>): Target {
  return { excluded_parts: [], remesh: false, texture_step: 0, ...given };
}

/** The limits that a level has, in the order of the list. */
export function limitsOf(one: Target): typeof LIMITS {
  return LIMITS.filter(({ value }) => one[value] != null);
}

/** A limit's value as it is shown and typed. */
export function shownValue(limit: Limit, value: number): number {
  return limit === "ratio" ? 100 * value : value;
}

/** The same back in the unit of the setting. */
export function settingValue(limit: Limit, shown: number): number {
  return limit === "ratio" ? Math.round(1000 * shown) / 1e5 : shown;
}

export function withLimit(one: Target, limit: Limit, prop: PropDetail): Target {
  const start = LIMITS.find(({ value }) => value === limit)?.start(prop) ?? 1;
  return { ...one, [limit]: start, ...(limit === "pixels" ? { distance: 10 } : {}) };
}

export function withoutLimit(one: Target, limit: Limit): Target {
  return { ...one, [limit]: null, ...(limit === "pixels" ? { distance: null } : {}) };
}

/** What stops a level, as a sentence: "at most 8 000 tris and at most 2 mm deviation". */
export function inWords(one: Target): string {
  if (one.hand_made != null) return `modelled by hand, ${one.hand_made}`;
  const words = limitsOf(one).map(({ value }) => limitInWords(value, one));
  if (one.remesh && one.edge_length_mm != null) words.push(`edges of ${figure(one.edge_length_mm)} mm`);
  return `${one.remesh ? "remesh, " : ""}${words.join(" and ")}`;
}

function limitInWords(limit: Limit, one: Target): string {
  const value = figure(shownValue(limit, one[limit] ?? 0));
  switch (limit) {
    case "ratio":
      return `${value} % of LOD0's tris`;
    case "triangles":
      return `at most ${value} tris`;
    case "vertices":
      return `at most ${value} verts`;
    case "tolerance":
      return `at most ${value} % deviation`;
    case "tolerance_mm":
      return `at most ${value} mm deviation`;
    case "pixels":
      return `at most ${value} px error at ${figure(one.distance ?? 10)} m`;
  }
}

function figure(value: number): string {
  return String(Number(value.toPrecision(6))).replace(/\B(?=(\d{3})+(?!\d))(?<!\.\d*)/g, "\u202f");
}

/** A level that is neither modelled nor says how far it is reduced would be none. */
export function reducible(one: Target): Target {
  const isSaid = one.hand_made != null || (one.remesh && one.edge_length_mm != null) || limitsOf(one).length > 0;
  return isSaid ? one : { ...one, ratio: 0.1 };
}

/** Whether a level does anything otherwise than its chain. */
export function hasOwn(one: Target): boolean {
  const own = [
    one.normals,
    one.silhouette_weight,
    one.curvature_weight,
    one.exclude_below_px,
    one.switch_distance,
    one.hand_made,
  ];
  return one.texture_step > 0 || one.remesh || one.excluded_parts.length > 0 || own.some((value) => value != null);
}

/** The levels in the order of their counts, whichever of them was changed. */
export function fallen(levels: Target[]): Target[] {
  const key = (["ratio", "triangles", "vertices"] as const).find((limit) =>
    levels.every((level) => level[limit] != null),
  );
  return key ? [...levels].sort((one, two) => (two[key] ?? 0) - (one[key] ?? 0)) : levels;
}

/** A level half way, by what both say. */
export function between(one: Target, two: Target): Target {
  const next: Partial<Target> = {};
  for (const { value } of LIMITS) {
    const [a, b] = [one[value], two[value]];
    if (a == null || b == null) continue;
    const middle = Math.sqrt(a * b);
    next[value] = value === "triangles" || value === "vertices" ? Math.round(middle) : Number(middle.toPrecision(3));
  }
  if (next.pixels != null) next.distance = one.distance ?? 10;
  return Object.keys(next).length ? target(next) : further(one);
}

/** Half of what the last level keeps, or twice its deviation. */
export function further(one: Target): Target {
  const next: Target = { ...one, switch_distance: null, hand_made: null };
  if (one.ratio != null) next.ratio = Math.max(Math.round(one.ratio * 500) / 1000, 0.001);
  for (const key of ["triangles", "vertices"] as const) {
    const value = one[key];
    if (value != null) next[key] = Math.max(Math.round(value / 2), 4);
  }
  for (const key of ["tolerance", "tolerance_mm", "pixels"] as const) {
    const value = one[key];
    if (value != null) next[key] = 2 * value;
  }
  return reducible(next);
}
