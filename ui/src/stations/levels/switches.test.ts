import { expect, test } from "vitest";

import type { Level } from "../../api/client";
import { drawnAt, type Switches, visibleChange, visibleStep } from "./switches";

const measures = (surface: number, outline: number, shading: number) => ({ surface, outline, shading });
const level = (distance: number): Level =>
  ({ distance, change: measures(1, 3, 2), step: measures(0.5, 0.1, 0.2) }) as unknown as Level;
const chain = (last: number | null): Switches => ({
  view: { lines: 1080, angle: 60, radius: 1 },
  threshold: 1,
  bias: 1,
  levels: [level(0), level(8), level(20)],
  last,
});

test("a level is drawn from its switch distance on, and none beyond the last", () => {
  expect([0, 7.99, 8, 19, 20, 1e6].map((distance) => drawnAt(chain(null), distance))).toEqual([0, 0, 1, 1, 2, 2]);
  expect([59, 60, 60.1].map((distance) => drawnAt(chain(60), distance))).toEqual([2, 2, -1]);
});

test("what is seen of a level is the largest of surface, silhouette and shading", () => {
  expect(visibleChange(level(0))).toBe(3);
  expect(visibleStep(level(0))).toBe(0.5);
});
