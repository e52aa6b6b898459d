import { describe, expect, test } from "vitest";

import type { PropDetail } from "../../api/client";
import {
  between,
  fallen,
  further,
  hasOwn,
  inWords,
  LIMITS,
  limitsOf,
  reducible,
  settingValue,
  shownValue,
  target,
  withLimit,
  withoutLimit,
} from "./targets";

const PROP = { levels: [{ triangles: 8000, vertices: 5000 }] } as unknown as PropDetail;

describe("the limits of a level", () => {
  test("read as a sentence", () => {
    expect(inWords(target({ triangles: 8000, tolerance_mm: 2 }))).toBe(
      "at most 8\u202f000 tris and at most 2 mm deviation",
    );
    expect(inWords(target({ pixels: 1.5, distance: 12 }))).toBe("at most 1.5 px error at 12 m");
    expect(inWords(target({ remesh: true, edge_length_mm: 40, ratio: 0.25 }))).toBe(
      "remesh, 25 % of LOD0's tris and edges of 40 mm",
    );
    expect(inWords(target({ hand_made: "crate_LOD1", ratio: 0.5 }))).toBe("modelled by hand, crate_LOD1");
    expect(inWords(target({ triangles: 1_234_567 }))).toBe("at most 1\u202f234\u202f570 tris");
  });

  test("are typed in the unit that they are shown in", () => {
    for (const [ratio, shown] of [
      [0.25, 25],
      [0.125, 12.5],
    ] as const) {
      expect(shownValue("ratio", ratio)).toBe(shown);
      expect(settingValue("ratio", shown)).toBe(ratio);
    }
    expect(settingValue("triangles", 640)).toBe(640);
  });

  test("come with a start, and go without leaving a level that says nothing", () => {
    for (const { value } of LIMITS) {
      const one = withLimit(target({}), value, PROP);
      expect(limitsOf(one).map((limit) => limit.value)).toEqual([value]);
      expect(one[value]).toBeGreaterThan(0);
      expect(one.distance ?? null).toBe(value === "pixels" ? 10 : null);
      const bare = withoutLimit(one, value);
      expect(limitsOf(bare)).toEqual([]);
      expect(bare.distance ?? null).toBeNull();
      expect(limitsOf(reducible(bare))).not.toEqual([]);
    }
    expect(withLimit(target({}), "triangles", PROP).triangles).toBe(2000);
  });
});

describe("a chain", () => {
  test("falls by its counts, and keeps its order where the levels differ in kind", () => {
    const [a, b, c] = [target({ ratio: 0.1 }), target({ ratio: 0.5 }), target({ ratio: 0.25 })];
    expect(fallen([a, b, c])).toEqual([b, c, a]);
    const mixed = [target({ ratio: 0.1 }), target({ tolerance: 2 })];
    expect(fallen(mixed)).toBe(mixed);
  });

  test("takes a level half way between two, and further than its last", () => {
    expect(between(target({ triangles: 4000 }), target({ triangles: 1000 })).triangles).toBe(2000);
    expect(between(target({ pixels: 1, distance: 7 }), target({ pixels: 4 }))).toMatchObject({
      pixels: 2,
      distance: 7,
    });
    expect(between(target({ ratio: 0.5 }), target({ tolerance: 2 })).ratio).toBe(0.25);
    expect(further(target({ ratio: 0.5, tolerance_mm: 3, switch_distance: 9 }))).toMatchObject({
      ratio: 0.25,
      tolerance_mm: 6,
      switch_distance: null,
    });
    expect(further(target({ triangles: 5 })).triangles).toBe(4);
    expect(limitsOf(further(target({ hand_made: "crate_LOD1" })))).not.toEqual([]);
  });

  test("marks the levels that do something of their own", () => {
    expect(hasOwn(target({ ratio: 0.5 }))).toBe(false);
    for (const own of [
      { texture_step: 1 },
      { remesh: true },
      { excluded_parts: ["lid"] },
      { switch_distance: 4 },
      { silhouette_weight: 0 },
    ])
      expect(hasOwn(target(own)), JSON.stringify(own)).toBe(true);
  });
});
