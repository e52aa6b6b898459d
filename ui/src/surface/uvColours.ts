import { APART } from "./palette";
import { overlapShares } from "./uvOverlap";
import type { UvIslands } from "./uvs";

export type SheetView = "islands" | "overlap" | "stretch" | "density" | "mirrored";
export const SHEET_VIEWS: { value: SheetView; label: string; hint: string }[] = [
  { value: "islands", label: "Islands", hint: "a colour an island; darker where islands lie on each other" },
  { value: "overlap", label: "Overlap", hint: "what lies on something else, or under it" },
  { value: "stretch", label: "Stretch", hint: "how far a square on the sheet is from a square on the surface" },
  { value: "density", label: "Density", hint: "how much coarser or finer the texture is than on the whole" },
  { value: "mirrored", label: "Mirrored", hint: "islands on which a texture is mirrored, and triangles without area" },
];

type Rgb = [number, number, number];
const PAPER: Rgb = [0.9, 0.91, 0.86];
const AMBER: Rgb = [0.86, 0.62, 0.2];
const PLUM: Rgb = [0.5, 0.04, 0.28];
const SEA: Rgb = [0.11, 0.36, 0.52];
const RED: Rgb = [0.72, 0.15, 0.12];
const ISLANDS: Rgb[] = APART.map((hex) => [1, 3, 5].map((at) => parseInt(hex.slice(at, at + 2), 16) / 255) as Rgb);

const between = (a: Rgb, b: Rgb, share: number): Rgb => [
  a[0] + (b[0] - a[0]) * share,
  a[1] + (b[1] - a[1]) * share,
  a[2] + (b[2] - a[2]) * share,
];

/** A scale that the legend shows: its colours, and what stands under them. */
export interface Scale {
  stops: { color: Rgb; label: string }[];
}

/** Largest over least stretch at which the colour is full. */
const SKEW_FULL = 2;
/** How many times coarser or finer the colour is full. */
const DENSITY_FULL = 4;

export const SCALES: Record<SheetView, Scale | null> = {
  islands: null,
  overlap: {
    stops: [
      { color: PAPER, label: "alone" },
      { color: AMBER, label: "half" },
      { color: RED, label: "all of it overlaps" },
    ],
  },
  stretch: {
    stops: [
      { color: PAPER, label: "1 : 1" },
      { color: AMBER, label: "1.5 : 1" },
      { color: PLUM, label: "2 : 1 and more" },
    ],
  },
  density: {
    stops: [
      { color: SEA, label: "4 × finer" },
      { color: PAPER, label: "as the whole" },
      { color: PLUM, label: "4 × coarser" },
    ],
  },
  mirrored: {
    stops: [
      { color: PAPER, label: "as it is" },
      { color: AMBER, label: "mirrored" },
      { color: RED, label: "no area" },
    ],
  },
};

function colourOf(channel: UvIslands, view: SheetView, t: number): Rgb {
  if (view === "islands") return ISLANDS[channel.island[t]! % ISLANDS.length]!;
  if (view === "overlap") {
    const share = overlapShares(channel)[t]!;
    return share < 0.5 ? between(PAPER, AMBER, 2 * share) : between(AMBER, RED, 2 * share - 1);
  }
  if (view === "mirrored") return channel.turn[t] === 0 ? RED : channel.turn[t]! > 0 ? PAPER : AMBER;
  if (view === "stretch") {
    const skew = channel.skew[t]!;
    if (Number.isNaN(skew)) return RED;
    const share = Math.min((skew - 1) / (SKEW_FULL - 1), 1);
    return share < 0.5 ? between(PAPER, AMBER, 2 * share) : between(AMBER, PLUM, 2 * share - 1);
  }
  const coarse = channel.coarse[t]!;
  if (Number.isNaN(coarse)) return RED;
  const share = Math.max(-1, Math.min(Math.log(coarse) / Math.log(DENSITY_FULL), 1));
  return share < 0 ? between(PAPER, SEA, -share) : between(PAPER, PLUM, share);
}

/** Nine numbers a triangle, linear light: the colour of each of its corners. */
export function triangleColours(channel: UvIslands, view: SheetView): Float32Array {
  const triangles = channel.island.length;
  const out = new Float32Array(9 * triangles);
  for (let t = 0; t < triangles; t += 1) {
    const color = colourOf(channel, view, t).map((value) => value ** 2.2);
    for (let k = 0; k < 3; k += 1) out.set(color, 9 * t + 3 * k);
  }
  return out;
}

export const css = ([r, g, b]: Rgb): string => `rgb(${[r, g, b].map((value) => Math.round(255 * value)).join(" ")})`;
