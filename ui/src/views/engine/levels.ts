/**
 * Which level an engine draws: the last whose distance is reached. A bias of 2 keeps the finer levels twice as long, one
 * of 0.5 half as long.
 */
export function levelAt(distances: readonly number[], distance: number, bias: number): number {
  let level = 0;
  distances.forEach((from, k) => {
    if (distance / bias >= from) level = k;
  });
  return level;
}
