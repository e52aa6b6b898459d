import { scaleLog } from "d3-scale";

import { visibleChange, type Switches } from "../switches";
import { pixelsOf } from "../../../viewport/gameView";
import type { Level } from "../../../api/client";

const PAD = { left: 52, right: 24, top: 20, bottom: 22 };
/** Pixels of visible change at the chart's foot and at its top. */
export const [PX_LOW, PX_HIGH] = [0.1, 10];

/** Where metres and pixels of change lie in the chart, both by their logarithm; its borders in pixels of the screen. */
export interface SightScale {
  /** The distances at its sides. */
  from: number;
  to: number;
  /** Kept within the borders. */
  x: (metres: number) => number;
  y: (px: number) => number;
  /** Going on beyond them. */
  along: (metres: number) => number;
  up: (px: number) => number;
  metresAt: (x: number) => number;
  ticks: number[];
  left: number;
  right: number;
  top: number;
  bottom: number;
}

/** The chart's scale, from where the eye is at the prop to past the last switch. */
export function sightScale(switches: Switches, width: number, height: number): SightScale {
  const levels = switches.levels.filter(({ index }) => index > 0);
  const furthest = Math.max(switches.last ?? 0, ...levels.map((level) => Math.max(level.distance, level.proposed)));
  const from = roundDown(Math.max(switches.view.radius, 1e-3));
  const to = Math.max(from * 100, 10 * roundDown(Math.max(furthest, 1e-6) * 0.25));
  const [left, top] = [PAD.left, PAD.top];
  const [right, bottom] = [
    left + Math.max(width - left - PAD.right, 50),
    top + Math.max(height - top - PAD.bottom, 30),
  ];
  const along = scaleLog([from, to], [left, right]);
  const x = along.copy().clamp(true);
  const up = scaleLog([PX_LOW, PX_HIGH], [bottom, top]);
  const y = up.copy().clamp(true);
  return { from, to, x, y, along, up, metresAt: (at) => x.invert(at), ticks: x.ticks(), left, right, top, bottom };
}

/** How high in the chart a level's change lies, seen from so many metres. */
export function heightOf({ y }: SightScale, { view, bias }: Switches, level: Level, metres: number): number {
  return y(pixelsOf(view, visibleChange(level), metres / bias));
}

/** The next 1, 2 or 5 of a power of ten below. */
function roundDown(value: number): number {
  const power = 10 ** Math.floor(Math.log10(value));
  return (value >= 5 * power ? 5 : value >= 2 * power ? 2 : 1) * power;
}
