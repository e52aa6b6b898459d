import { expect, test } from "vitest";

import { cliffsOf } from "./cliffs";
import type { Surface } from "./surface";

// A triangle with a base of 1 m along x and its apex 0.5 m above.
const surface = { positions: new Float32Array([0, 0, 0, 1, 0, 0, 0.5, 0.5, 0]) } as unknown as Surface;

test("a long edge is a line with ticks toward its own triangle", () => {
  const { lines, ticks, strong } = cliffsOf(surface, [0], 0.25);
  expect([...lines]).toEqual([0, 0, 0, 1, 0, 0]);
  expect(strong).toHaveLength(0);
  expect(ticks).toHaveLength(4 * 6);
  const feet = [0, 1, 2, 3].map((i) => ticks[6 * i]);
  expect(feet).toEqual([0.125, 0.375, 0.625, 0.875]);
  for (let i = 0; i < 4; i += 1) {
    expect(ticks[6 * i + 3]).toBeCloseTo(ticks[6 * i]!); // square to the edge
    expect(ticks[6 * i + 4]).toBeGreaterThan(0);
    expect(ticks[6 * i + 4]).toBeLessThanOrEqual(0.4 * 0.5);
  }
});

test("an edge without room for a tick is a strong line", () => {
  const { lines, ticks, strong } = cliffsOf(surface, [0, 1], 2);
  expect([lines.length, ticks.length]).toEqual([0, 0]);
  expect(strong).toHaveLength(12);
});
