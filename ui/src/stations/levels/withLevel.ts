import type { PropDetail } from "../../api/client";
import type { Target } from "./targets";
import { target } from "./targets";

/** The chain with one more level of so many triangles, in its place. */
export function withLevel(prop: PropDetail, triangles: number): Target[] {
  const most = Math.max(prop.levels[0]?.triangles ?? 1, 1);
  const targets = prop.settings.levels.levels;
  const sizeOf = (one: Target, i: number) =>
    one.triangles ?? (one.ratio ? one.ratio * most : (prop.levels[i + 1]?.triangles ?? 0));
  const at = targets.findIndex((one, i) => sizeOf(one, i) <= triangles);
  const own = target({ ratio: Math.min(Math.max(Math.round((1e5 * triangles) / most) / 1e5, 1e-5), 0.99999) });
  const next = at < 0 ? [...targets, own] : [...targets.slice(0, at), own, ...targets.slice(at)];
  return next.slice(0, 7);
}
