import type { Level } from "../../api/client";

/** What a level of the line is called; `index` is null for one that was skipped, as the next one has its number. */
export interface LevelName {
  index: number | null;
  words: string;
}

/**
 * The name of the line's level at a place, from 1, or of LOD0: as it was built, or on from the last that was where it is
 * still to come. Levels of the base have no place in the line.
 */
export function levelName(place: number, levels: Pick<Level, "index" | "target">[]): LevelName {
  const built = new Map([[0, 0]]);
  for (const { index, target } of levels) if (target >= 0) built.set(target + 1, index);
  const last = Math.max(...built.keys());
  const index = place > last ? (built.get(last) ?? 0) + place - last : (built.get(place) ?? null);
  return { index, words: index === null ? `skipped level ${place}` : `LOD${index}` };
}
