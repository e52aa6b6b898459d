import { expect, test } from "vitest";

import { cube, grid, halfEdge, surfaceOf } from "../testing/surface";
import { LiveShading, type Rule } from "./shading";
import { MADE_HARD, OWN_HARD } from "./sheet";
import { next, type Surface } from "./surface";

const RULE: Rule = { angle: 30, ownHard: true, weights: "angle", share: 0.9, strength: 1 };
const shade = (surface: Surface, rule: Partial<Rule> = {}) =>
  new LiveShading(surface, { ...RULE, ...rule }, surface.normals.slice());
const normalAt = (shading: LiveShading, c: number) => [...shading.normals.subarray(3 * c, 3 * c + 3)];

test("a cube has 24 engine vertices when hard and 8 when smooth, and the way back is exact", () => {
  const surface = surfaceOf(cube());
  const shading = shade(surface);
  const flat = shading.normals.slice();
  expect([shading.cost, shading.change]).toEqual([24, 0]);
  shading.setAngle(91);
  expect([shading.cost, shading.change]).toEqual([8, -16]);
  const third = 1 / Math.sqrt(3);
  for (let c = 0; c < surface.sheet.vertex.length; c += 1) {
    const outward = [0, 1, 2].map((k) => Math.sign(surface.positions[3 * c + k]!) * third);
    normalAt(shading, c).forEach((x, k) => expect(x).toBeCloseTo(outward[k]!, 5));
  }
  shading.setAngle(30);
  expect(shading.cost).toBe(24);
  shading.normals.forEach((x, i) => expect(x).toBeCloseTo(flat[i]!, 6));
});

test("an edge marked hard parts its ends' normals, cleared it joins them again", () => {
  // Two slopes that meet at 20° along 1-3.
  const surface = surfaceOf({
    points: [
      [-1, -0.18, 0],
      [0, 0, 0],
      [-1, -0.18, -1],
      [0, 0, -1],
      [1, -0.18, 0],
      [1, -0.18, -1],
    ],
    polygons: [
      [0, 1, 3, 2],
      [1, 4, 5, 3],
    ],
  });
  const ridge = halfEdge(surface, 1, 3);
  const twin = surface.sheet.twin[ridge]!;
  const shading = shade(surface);
  expect([shading.cost, shading.isSmooth(ridge)]).toEqual([6, true]);
  expect(shading.costOf([ridge], "hard")).toBe(2);
  expect([shading.cost, shading.isSmooth(ridge)], "asking changes nothing").toEqual([6, true]);
  shading.mark([ridge], "hard");
  expect([shading.change, shading.isSmooth(twin)]).toEqual([2, false]);
  expect(normalAt(shading, ridge)).not.toEqual(normalAt(shading, next(twin)));
  shading.setAngle(170);
  expect(shading.isSmooth(ridge), "a mark outlasts the threshold").toBe(false);
  shading.mark([ridge], "clear");
  expect([shading.change, shading.isSmooth(ridge)]).toEqual([0, true]);
  expect(normalAt(shading, ridge)).toEqual(normalAt(shading, next(twin)));
});

test("edges that are hard in the source count only where the rule says so; a mark of soft is above both", () => {
  const surface = surfaceOf(grid(2, 1));
  const across = halfEdge(surface, 2, 3);
  for (const h of [across, surface.sheet.twin[across]!]) surface.sheet.edge[h] = OWN_HARD;
  expect(shade(surface, { ownHard: false }).isSmooth(across)).toBe(true);
  const shading = shade(surface);
  expect(shading.isSmooth(across)).toBe(false);
  shading.mark([across], "soft");
  expect(shading.isSmooth(across)).toBe(true);
  shading.mark([across], "clear");
  expect(shading.isSmooth(across), "the source's own is there again").toBe(false);
  surface.sheet.edge.fill(MADE_HARD);
  expect(shade(surface, { ownHard: false }).isSmooth(across)).toBe(false);
});

test("without an angle the shipped normals decide", () => {
  const surface = surfaceOf(cube());
  const shading = shade(surface, { angle: null });
  expect(shading.cost).toBe(24);
  shading.setAngle(91);
  expect(shading.cost).toBe(8);
  surface.normals.fill(Math.sqrt(1 / 3));
  expect(shade(surface, { angle: null }).cost).toBe(8);
});

test("corners with other UVs stay engine vertices of their own, whatever the normals", () => {
  const base = grid(2, 1);
  const attribute = base.polygons.map((polygon, p) => polygon.map((v) => 10 * p + v));
  const surface = surfaceOf({ ...base, attribute });
  const shading = shade(surface);
  expect(shading.cost).toBe(8);
  const across = halfEdge(surface, 2, 3);
  shading.setAngle(0);
  expect(normalAt(shading, across).map(Math.round)).toEqual([0, 1, 0].map((x) => expect.closeTo(x)));
  expect(shading.costOf([across], "hard"), "they are apart already").toBe(0);
});

test("weights by area lean to the larger flat, by angle they do not", () => {
  const ridge = surfaceOf({
    points: [
      [-1, 0, 0],
      [0, 0, 0],
      [-1, 0, -1],
      [0, 0, -1],
      [0, -9, 0],
      [0, -9, -1],
    ],
    polygons: [
      [0, 1, 3, 2],
      [1, 4, 5, 3],
    ],
  });
  ridge.sheet.polygon.forEach((p, t) => (ridge.sheet.flat[t] = p === 0 ? 1 : 9));
  const at = halfEdge(ridge, 1, 3);
  const up = (weights: Rule["weights"]) => {
    const shading = shade(ridge, { weights });
    // What changes is shaded.
    shading.setAngle(100);
    return normalAt(shading, at)[1]!;
  };
  expect(up("angle")).toBeCloseTo(Math.SQRT1_2, 3);
  expect(up("area")).toBeCloseTo(1 / Math.hypot(1, 9), 3);
  expect(up("large")).toBeCloseTo(0, 3);
});

test("an open border and a triangle without area are shaded by their own face", () => {
  const surface = surfaceOf({
    points: [
      [0, 0, 0],
      [1, 0, 0],
      [1, 0, -1],
      [2, 0, 0],
    ],
    polygons: [
      [0, 1, 2],
      [0, 3, 1],
    ],
  });
  const shading = shade(surface, { angle: 180 });
  for (const x of shading.normals) expect(Number.isFinite(x)).toBe(true);
  expect(shading.costOf([halfEdge(surface, 1, 2)], "hard"), "a border cannot be marked").toBe(0);
});
