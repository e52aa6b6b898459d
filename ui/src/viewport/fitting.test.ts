import { PerspectiveCamera, Vector3 } from "three";
import { expect, test } from "vitest";

import { cornersOf } from "./framed";
import { type Covered, FIELD_OF_VIEW, fit, shiftOf } from "./fitting";

const before = new Vector3(0.62, 0.36, 0.7).normalize();
const box = (x: number, y: number, z: number) =>
  cornersOf({ min: new Vector3(-x / 2, 0, -z / 2), max: new Vector3(x / 2, y, z / 2) } as never);

/** Where places are drawn, in pixels from the upper left. */
function drawn(places: number[], view: { width: number; height: number }, covered: Covered): [number, number][] {
  const { eye, target, free } = fit(places, before, view, covered);
  const camera = new PerspectiveCamera(FIELD_OF_VIEW, view.width / view.height, 0.01, 100);
  const [right, up] = shiftOf(free);
  camera.setViewOffset(view.width, view.height, -right, up, view.width, view.height);
  camera.position.copy(eye);
  camera.lookAt(target);
  camera.updateMatrixWorld();
  const at: [number, number][] = [];
  for (let i = 0; i < places.length; i += 3) {
    const { x, y } = new Vector3().fromArray(places, i).project(camera);
    at.push([((x + 1) * view.width) / 2, ((1 - y) * view.height) / 2]);
  }
  return at;
}

/** A row, and a chip below it. */
const corner = [
  { width: 320, height: 40 },
  { width: 204, height: 110 },
];
const isIn = (x: number, y: number) => corner.some(({ width, height }) => x < width && y < height);
const covered = { foot: 88, corner };
const narrow = { width: 480, height: 490 };

test.each([
  ["a cube", box(1, 1, 1)],
  ["a post", box(0.3, 2, 0.3)],
  ["a plank", box(3, 0.2, 0.3)],
  ["a wall", box(2, 2, 0.1)],
])("%s is drawn within the view, clear of its foot and of its corner", (_, places) => {
  for (const [x, y] of drawn(places, narrow, covered)) {
    expect(x).toBeGreaterThan(0);
    expect(x).toBeLessThan(narrow.width);
    expect(y).toBeGreaterThan(0);
    expect(y).toBeLessThan(narrow.height - covered.foot);
    expect(isIn(x, y), "under the corner").toBe(false);
  }
});

test("where nothing comes under the corner it is as if none were covered", () => {
  const wide = { width: 890, height: 490 };
  expect(drawn(box(0.3, 2, 0.3), wide, covered)).toEqual(drawn(box(0.3, 2, 0.3), wide, { ...covered, corner: [] }));
});

test("the corner is passed on the side that leaves the larger picture", () => {
  const extent = (places: number[], which: 0 | 1) => Math.min(...drawn(places, narrow, covered).map((at) => at[which]));
  expect(extent(box(0.6, 2, 0.6), 0), "tall: beside the chip").toBeGreaterThan(204);
  expect(extent(box(0.6, 2, 0.6), 1), "but not below it").toBeLessThan(110);
  expect(extent(box(3, 1, 0.3), 0), "wide: not beside the chip").toBeLessThan(204);
  expect(extent(box(3, 1, 0.3), 1), "but below it").toBeGreaterThan(110);
});
