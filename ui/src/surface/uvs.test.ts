import { expect, test } from "vitest";

import { grid, surfaceOf } from "../testing/surface";
import { overlapShares } from "./uvOverlap";
import { findIslands, islandAt, trianglesOf } from "./uvs";
import { paddingBands } from "./uvPadding";
import { triangleColours } from "./uvColours";

/** A strip of quads along x, two triangles each; `place` says where each corner of which quad lies on the sheet. */
function strip(quads: number, place: (x: number, y: number, quad: number) => [number, number], isWelded = true) {
  const surface = surfaceOf(grid(quads, 1));
  const uvs = new Float32Array(12 * quads);
  for (let c = 0; c < 6 * quads; c += 1) {
    const [x, z] = [surface.positions[3 * c]!, surface.positions[3 * c + 2]!];
    uvs.set(place(x, -z, Math.floor(c / 6)), 2 * c);
  }
  const twin = isWelded ? surface.sheet.twin : surface.sheet.twin.map(() => -1);
  return findIslands(uvs, surface.positions, twin);
}

/** As it is seen from above: V runs down. */
const flat = (x: number, y: number): [number, number] => [x / 8, 1 - y / 8];

test("triangles that share an edge on the sheet are one island, and its rim goes around it", () => {
  const whole = strip(3, flat);
  expect([whole.count, whole.rim.length]).toEqual([1, 8]);
  const cut = strip(3, (x, y, quad) => (quad === 2 ? [x / 8 + 0.1, 1 - y / 8] : flat(x, y)));
  expect([cut.count, cut.rim.length]).toEqual([2, 10]);
  expect([...cut.island]).toEqual([0, 0, 0, 0, 1, 1]);
  expect(trianglesOf(cut, 1)).toEqual([4, 5]);
});

test("triangles that touch by place and by UV are one island, though they share no points", () => {
  const cutLast = (x: number, y: number, quad: number): [number, number] =>
    quad === 2 ? [x / 8 + 0.1, 1 - y / 8] : flat(x, y);
  for (const place of [flat, cutLast]) {
    const [welded, apart] = [strip(3, place), strip(3, place, false)];
    expect([apart.count, [...apart.rim], [...apart.island]]).toEqual([
      welded.count,
      [...welded.rim],
      [...welded.island],
    ]);
  }
});

test("what is mirrored, and what has no area, is told", () => {
  const sides = strip(3, (x, y, quad) => (quad === 0 ? flat(x, y) : quad === 1 ? [x / 8 + 0.2, y / 8] : [0.9, 0.9]));
  expect([...sides.turn]).toEqual([1, 1, -1, -1, 0, 0].map((sign) => sign + 0));
  expect(sides.skew[4]).toBeNaN();
  expect(sides.coarse[5]).toBeNaN();
});

test("stretch and density are those of the map from the sheet to the surface", () => {
  const uneven = strip(2, (x, y, quad) => (quad === 0 ? [x / 8, 1 - y / 8] : [x / 4, 1 - y / 8]));
  expect(uneven.skew[0]).toBeCloseTo(1, 5);
  expect(uneven.skew[2]).toBeCloseTo(2, 5);
  // Areas on the sheet are 1/64 and 1/32, of 2 on the surface in all.
  expect(uneven.coarse[0]).toBeCloseTo(Math.sqrt(64 / (2 / (3 / 64))), 5);
  expect(uneven.coarse[2]! / uneven.coarse[0]!).toBeCloseTo(Math.SQRT1_2, 5);
});

test("what lies on something else is told, and what only touches is not", () => {
  const apart = overlapShares(strip(4, flat));
  expect([...apart]).toEqual(Array(8).fill(0));
  const folded = overlapShares(strip(4, (x, y, quad) => (quad === 3 ? [(x - 3) / 8, 1 - y / 8] : flat(x, y))));
  expect([...folded].map((share) => Math.round(share))).toEqual([1, 1, 0, 0, 0, 0, 1, 1]);
  const beside = overlapShares(strip(4, (x, y, quad) => (quad === 3 ? [(x - 3) / 8 + 2, 1 - y / 8] : flat(x, y))));
  expect(
    [...beside].map((share) => Math.round(share)),
    "two squares to the right",
  ).toEqual([1, 1, 0, 0, 0, 0, 1, 1]);
});

test("the island under a place on the sheet is found", () => {
  const cut = strip(2, (x, y, quad) => (quad === 1 ? [x / 8 + 0.1, 1 - y / 8] : flat(x, y)));
  expect(islandAt(cut, 0.06, 0.95)).toBe(0);
  expect(islandAt(cut, 0.3, 0.95)).toBe(1);
  expect(islandAt(cut, 0.18, 0.95)).toBeNull();
});

test("colours tell islands, stretch, density and mirroring apart", () => {
  const cut = strip(2, (x, y, quad) => (quad === 1 ? [x / 2, y / 8] : flat(x, y)));
  const first = (view: Parameters<typeof triangleColours>[1], t: number) => [
    ...triangleColours(cut, view).subarray(9 * t, 9 * t + 3),
  ];
  for (const view of ["islands", "stretch", "density", "mirrored"] as const) {
    expect(first(view, 0), view).toEqual(first(view, 1));
    expect(first(view, 0), view).not.toEqual(first(view, 2));
  }
});

test("padding is drawn on the outer side of each rim, as wide as it is", () => {
  const whole = strip(2, flat);
  const bands = paddingBands(whole, 0.01, 1);
  expect(bands.length).toBe(18 * whole.rim.length);
  const places = Array.from({ length: bands.length / 3 }, (_, i) => [bands[3 * i]!, bands[3 * i + 1]!]);
  const [x, y] = [0, 1].map((axis) => places.map((place) => place[axis]!));
  expect([Math.min(...x!), Math.max(...x!)].map((v) => v.toFixed(3))).toEqual(["-0.010", "0.260"]);
  expect([Math.min(...y!), Math.max(...y!)].map((v) => v.toFixed(3))).toEqual(["-0.010", "0.135"]);
});
