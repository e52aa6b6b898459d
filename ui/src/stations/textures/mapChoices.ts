import type { Settings } from "../bench";

export type MapChoice = Settings["textures"]["maps"][number];
export type Height = NonNullable<MapChoice["height"]>;

/** Sizes of detail of a height map. */
export const BANDS = ["1 px", "2 px", "4 px", "8 px", "16 px", "larger"];
export const HEIGHT: Height = { strength: 4, shares: BANDS.map(() => 1), occlusion: false };

/** A choice that says nothing. */
export const UNDECIDED: Omit<MapChoice, "image"> = {
  kind: null,
  codec: null,
  flip_green: false,
  drop_alpha: false,
  one_channel: false,
  unit: false,
  height: null,
};

/** The list of choices with one changed; one that says nothing is left out. */
export function withChoice(maps: MapChoice[], image: string, change: Partial<MapChoice>): MapChoice[] {
  const before = maps.find((choice) => choice.image === image);
  const next: MapChoice = { ...UNDECIDED, ...before, ...change, image };
  const decided = [next.flip_green, next.drop_alpha, next.one_channel, next.unit];
  const says = next.kind !== null || next.codec !== null || next.height !== null || decided.includes(true);
  const others = maps.filter((choice) => choice.image !== image);
  return says ? [...others, next] : others;
}
