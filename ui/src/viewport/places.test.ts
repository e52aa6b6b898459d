import { Vector3 } from "three";
import { expect, test } from "vitest";

import { cube, halfEdge, surfaceOf } from "../testing/surface";
import { distanceOf, type GameView, pixelsOf, sizeInPixels, trueSizeAngle } from "./gameView";
import { MarkPlaces } from "./marks";
import { spotOf, toSource } from "./toSource";
import { EyeStore } from "./viewState";

const view: GameView = { lines: 1080, angle: 60, radius: 0.5 };
/** From inches, Z up, to metres, Y up, moved along x. */
const matrix = [0.0254, 0, 0, 2, 0, 0, 0.0254, 0, 0, -0.0254, 0, 0, 0, 0, 0, 1];

test("pixels and distances undo each other", () => {
  for (const length of [0.001, 0.02, 0.3])
    for (const px of [0.25, 1, 8]) expect(pixelsOf(view, length, distanceOf(view, length, px))).toBeCloseTo(px, 9);
});

test("a view of 90 degrees shows as many metres as twice the distance", () => {
  const wide: GameView = { lines: 1000, angle: 90, radius: 0 };
  expect(pixelsOf(wide, 2, 1)).toBeCloseTo(1000, 9);
  expect(sizeInPixels({ ...wide, radius: 1 }, 4)).toBeCloseTo(250, 9);
});

test("within the prop every change fills the view, and no change is none", () => {
  expect(pixelsOf(view, 0.01, 0.5)).toBe(Infinity);
  expect(pixelsOf(view, 0.01, 0.2)).toBe(Infinity);
  expect(pixelsOf(view, 0, 0.2)).toBe(0);
});

test("a picture as high as the game's view has its angle, a lower one a smaller", () => {
  expect(trueSizeAngle(view, 1080)).toBeCloseTo(60, 9);
  expect(trueSizeAngle(view, 540)).toBeCloseTo((2 * Math.atan(Math.tan(Math.PI / 6) / 2) * 180) / Math.PI, 9);
});

test("a place of the view in the source's units and axes, to nine digits", () => {
  const there = toSource(new Vector3(2.0254, 0.0508, -0.0762), matrix)!;
  [1, 3, 2].forEach((value, k) => expect(there[k]).toBeCloseTo(value, 6));
  expect(toSource(new Vector3(), undefined)).toBeNull();
  expect(toSource(new Vector3(), [1, 2, 3])).toBeNull();
});

test("a spot faces as its triangle does, in the source's axes", () => {
  const corners: [Vector3, Vector3, Vector3] = [new Vector3(2, 0, 0), new Vector3(2, 0, 1), new Vector3(3, 0, 0)];
  const spot = spotOf({ point: new Vector3(2.2, 0, 0.2), corners, node: "LOD0" }, matrix)!;
  // Up in the view is Z in the source.
  expect(spot.facing.map((x) => Math.round(x * 1e6) / 1e6 + 0)).toEqual([0, 0, 1]);
  expect(spotOf({ point: new Vector3(), corners, node: "" }, undefined)).toBeNull();
});

test("an edge is found again by its mark, from either end and a little off", () => {
  const surface = surfaceOf(cube());
  const places = new MarkPlaces(surface, matrix, Math.sqrt(3));
  const edge = halfEdge(surface, 6, 7);
  const [a, b] = places.edge(edge);
  const key = places.keyOfEdge(edge);
  expect(key).toBe("6 7");
  expect([places.keyOf([a, b]), places.keyOf([b, a])]).toEqual([key, key]);
  const off = a.map((x) => x + 0.01) as typeof a;
  expect(places.keyOf([off, b]), "a quarter of a millimetre in inches").toBe(key);
  expect(places.keyOf([[100, 0, 0], b]), "nothing is there").toBeNull();
});

test("distances between marks are metres of the prop", () => {
  const places = new MarkPlaces(surfaceOf(cube()), matrix, 1);
  expect(places.distance([0, 0, 0], [10, 0, 0])).toBeCloseTo(0.254, 9);
});

test("a quad's spot is its middle, whichever of its triangles was met", () => {
  const surface = surfaceOf(cube());
  const places = new MarkPlaces(surface, undefined, 1);
  const side = [...surface.sheet.polygon.keys()].filter((t) => surface.sheet.polygon[t] === 5);
  expect(side).toHaveLength(2);
  const [one, two] = side.map((t) => places.spot(t));
  expect(one).toEqual(two);
  expect(one!.point.map((x) => Math.round(x) + 0)).toEqual([0, 0, 1]);
});

test("who watches the eye hears of it only when it moved, and no more once it stops watching", () => {
  const eye = new EyeStore();
  const heard: number[] = [];
  const stop = eye.subscribe(() => heard.push(eye.get().distance));
  eye.set({ distance: 2, bearing: 10 });
  eye.set({ distance: 2.00001, bearing: 10.01 });
  eye.set({ distance: 2, bearing: 11 });
  expect(heard).toEqual([2, 2]);
  stop();
  eye.set({ distance: 9, bearing: 0 });
  expect(heard).toHaveLength(2);
});
