import { expect, test } from "vitest";

import { cube, grid, halfEdge, surfaceOf } from "../testing/surface";
import {
  aboveAngle,
  borderOf,
  edgeAt,
  edgeLoop,
  islandBorders,
  materialBorders,
  patchAt,
  polygonTriangles,
} from "./select";
import { next, type Surface } from "./surface";

/** Edges as pairs of vertices, the smaller first. */
const pairs = (surface: Surface, edges: Iterable<number>) =>
  [...edges]
    .map((c) => [surface.sheet.vertex[c]!, surface.sheet.vertex[next(c)]!].sort((a, b) => a - b).join("-"))
    .sort();
const polygonsOf = (surface: Surface, patch: Set<number>) =>
  [...new Set([...patch].map((t) => surface.sheet.polygon[t]!))].sort((a, b) => a - b);

// 4 by 3 quads: the vertex (i, j) is 4 i + j.
const flat = surfaceOf(grid(4, 3));

test("a loop over quads runs straight from border to border", () => {
  const loop = edgeLoop(flat, halfEdge(flat, 5, 9));
  expect(pairs(flat, loop)).toEqual(["1-5", "13-17", "5-9", "9-13"].sort());
  expect(pairs(flat, edgeLoop(flat, halfEdge(flat, 9, 5))), "from either side").toEqual(pairs(flat, loop));
});

test("a loop on a border goes all around it", () => {
  const border = edgeLoop(flat, halfEdge(flat, 0, 4));
  expect(new Set(pairs(flat, border)).size).toBe(2 * (4 + 3));
});

test("a loop stops at a pole", () => {
  const box = surfaceOf(cube());
  expect(edgeLoop(box, halfEdge(box, 0, 1))).toHaveLength(1);
});

test("where triangles meet, a loop goes on along the straightest edge", () => {
  // Two rows of triangles: 0 1 2 3 below, 4 5 6 7 above, cut so that no quads are known.
  const points = [0, 1, 2, 3].flatMap((x) => [
    [x, 0, 0],
    [x, 0, -1],
    [x, 0, -2],
  ]) as [number, number, number][];
  const polygons = [0, 1, 2].flatMap((i) =>
    [0, 1].flatMap((j) => {
      const a = 3 * i + j;
      return [
        [a, a + 3, a + 4],
        [a, a + 4, a + 1],
      ];
    }),
  );
  const surface = surfaceOf({ points, polygons });
  expect(pairs(surface, edgeLoop(surface, halfEdge(surface, 4, 7)))).toEqual(["1-4", "4-7", "7-10"]);
});

test("the edge under the pointer is a side of the polygon, never its cut, also on the far triangle", () => {
  const quad = surfaceOf(grid(1, 1));
  const [near, far] = polygonTriangles(quad, 0) as [number, number];
  for (const t of [near, far]) {
    expect(pairs(quad, [edgeAt(quad, t, [0.5, 0, -0.05])!])).toEqual(["0-2"]);
    expect(pairs(quad, [edgeAt(quad, t, [0.02, 0, -0.5])!])).toEqual(["0-1"]);
    expect(pairs(quad, [edgeAt(quad, t, [0.5, 0, -0.9])!])).toEqual(["1-3"]);
  }
});

test("a patch grows over small folds and stops at large ones", () => {
  // A roof: flat, then 45° down along j = 1.
  const roof = surfaceOf(grid(2, 3, (_, j) => (j > 1 ? 1 - j : 0)));
  const onTop = patchAt(roof, 0, "angle", 20);
  expect(polygonsOf(roof, onTop)).toEqual([0, 3]);
  expect(pairs(roof, borderOf(roof, onTop))).toEqual(["1-5", "5-9"]);
  expect(polygonsOf(roof, patchAt(roof, 0, "angle", 46))).toEqual([0, 1, 2, 3, 4, 5]);
  expect(pairs(roof, aboveAngle(roof, 44.9))).toEqual(["1-5", "5-9"]);
  expect(aboveAngle(roof, 45.1)).toEqual([]);
});

test("a patch by material or part stops where another begins, and a shell takes all that hangs together", () => {
  const two = {
    ...grid(1, 4),
    material: [0, 0, 1, 0],
    part: [0, 1, 1, 1],
  };
  const surface = surfaceOf(two);
  expect(polygonsOf(surface, patchAt(surface, 0, "material", 0))).toEqual([0, 1]);
  expect(polygonsOf(surface, patchAt(surface, 2, "part", 0))).toEqual([1, 2, 3]);
  expect(polygonsOf(surface, patchAt(surface, 0, "shell", 0))).toEqual([0, 1, 2, 3]);
  expect(pairs(surface, materialBorders(surface))).toEqual(["2-7", "3-8"]);
});

test("another shell is never reached", () => {
  const one = grid(1, 1);
  const apart = surfaceOf({
    points: [...one.points, ...one.points.map(([x, y, z]) => [x + 5, y, z] as [number, number, number])],
    polygons: [...one.polygons, ...one.polygons.map((polygon) => polygon.map((v) => v + 4))],
  });
  expect(polygonsOf(apart, patchAt(apart, 0, "shell", 180))).toEqual([0]);
  expect(borderOf(apart, patchAt(apart, 0, "shell", 180)), "open borders are no border of a patch").toEqual([]);
});

test("an island ends where the UVs of the two sides differ, and not where the material does too", () => {
  const base = grid(1, 3);
  const attribute = base.polygons.map((polygon, p) => polygon.map((v) => (p === 0 ? v : v + 100)));
  const surface = surfaceOf({ ...base, attribute });
  expect(pairs(surface, islandBorders(surface))).toEqual(["1-5"]);
  const split = surfaceOf({ ...base, attribute, material: [0, 1, 1] });
  expect(islandBorders(split)).toEqual([]);
});
