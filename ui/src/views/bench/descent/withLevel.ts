import type { PropDetail } from "../../../api/client";

/** The chain with one more level of so many triangles, in its place. */
export function withLevel(prop: PropDetail, triangles: number): Record<string, number>[] {
  const most = Math.max(prop.levels[0]?.triangles ?? 1, 1);
  const targets = (prop.settings.levels?.levels as Record<string, number | null>[]).map((target) => Object.fromEntries(Object.entries(target).filter((entry): entry is [string, number] => entry[1] != null)));
  const sizeOf = (target: Record<string, number>, i: number) => target.triangles ?? (target.ratio ? target.ratio * most : (prop.levels[i + 1]?.triangles ?? 0));
  const at = targets.findIndex((target, i) => sizeOf(target, i) <= triangles);
  const own = { ratio: Math.min(Math.max(Math.round((1e5 * triangles) / most) / 1e5, 1e-5), 0.99999) };
  const next = at < 0 ? [...targets, own] : [...targets.slice(0, at), own, ...targets.slice(at)];
  return next.slice(0, 7);
}
