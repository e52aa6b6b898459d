/** Pixels that the label of a switch takes, and those within which switches are one place. */
const [LABEL, SAME] = [66, 6];

export interface SwitchLabel {
  /** On which side of the switch there is room for it. */
  side: "right" | "left" | "below";
  /** The first level of those that begin at this place; that of the switch itself is the last. */
  first: number;
}

/**
 * The label of each switch, by where each level begins, in pixels: left of one that another follows closely, lower
 * where neither side has room; none where the next level begins in the same place, whose label names both.
 */
export function switchLabels(places: number[]): (SwitchLabel | null)[] {
  const labels: (SwitchLabel | null)[] = [];
  let [first, before] = [0, null as { place: number; side: string } | null];
  places.forEach((place, level) => {
    const next = places[level + 1] ?? Infinity;
    if (level > 0 && next - place < SAME) {
      labels.push(null);
      return;
    }
    const isFollowed = next - place < LABEL;
    const apart = before ? place - before.place : Infinity;
    const hasLeft = apart > (before?.side === "right" ? 2 * LABEL : LABEL);
    const side = !isFollowed ? "right" : hasLeft ? "left" : "below";
    labels.push({ side, first });
    if (level > 0) before = { place, side };
    first = level + 1;
  });
  return labels;
}

/** "LOD2", or "LOD1 to 3" where they begin in one place. */
export function namesAt(first: number, last: number): string {
  return first < last ? `LOD${first} to ${last}` : `LOD${last}`;
}
