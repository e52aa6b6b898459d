import { render } from "@testing-library/react";
import { PerspectiveCamera, Vector3 } from "three";
import { expect, test, vi } from "vitest";

import { makeView } from "../testing/view";
import { WalkCamera } from "./WalkCamera";
import { FIELD_OF_VIEW } from "./fitting";

const game = { lines: 1080, angle: 60, radius: 0.5 };
const middle = new Vector3(0, 1, 0);

function open() {
  const camera = new PerspectiveCamera(FIELD_OF_VIEW, 4 / 3, 0.01, 100);
  camera.position.set(2, 1, 0);
  const controls = { target: new Vector3(0, 1, 0), minDistance: 0.1, maxDistance: 9, update: vi.fn() };
  const view = makeView({ camera, controls });
  const all = { middle, view: game, near: 1, far: 64, goal: null, isPlaying: false };
  const { rerender, unmount } = render(<WalkCamera {...all} />, { wrapper: view.View });
  const away = () => camera.position.distanceTo(middle);
  return {
    ...view,
    camera,
    controls,
    away,
    unmount,
    again: (next: object) => rerender(<WalkCamera {...all} {...next} />),
  };
}

test("the eye sees the middle of the game's view at its size, and all is as it was afterwards", () => {
  const { camera, controls, unmount } = open();
  // 300 of 1080 lines over 60 degrees.
  expect(Math.tan((camera.fov * Math.PI) / 360)).toBeCloseTo((Math.tan(Math.PI / 6) * 300) / 1080, 12);
  expect([controls.minDistance, controls.maxDistance, camera.far]).toEqual([0.5, 96, 192]);
  camera.position.set(0, 1, 40);
  unmount();
  expect(camera.position.toArray()).toEqual([2, 1, 0]);
  expect([camera.fov, camera.near, camera.far, controls.minDistance, controls.maxDistance]).toEqual([
    FIELD_OF_VIEW,
    0.01,
    100,
    0.1,
    9,
  ]);
});

test("a distance that is asked for is gone to, the way it looks now", () => {
  const { camera, away, again } = open();
  again({ goal: { distance: 16, stamp: 1 } });
  expect(away()).toBeCloseTo(16, 9);
  expect(camera.position.toArray()).toEqual([16, 1, 0]);
});

test("it walks out to the far end and back, in equal shares of the distance", () => {
  const { away, again, draw } = open();
  draw(0.4);
  expect(away()).toBe(2);
  again({ isPlaying: true, goal: { distance: 1, stamp: 1 } });
  draw(0.25);
  const first = away();
  draw(0.25);
  expect(away() / first).toBeCloseTo(first, 9);
  // Half a minute goes out, in twelve seconds, back, and out again: 64 = e^(share × 12).
  const way: number[] = [];
  for (let k = 0; k < 120; k += 1) {
    draw(0.25);
    way.push(away());
  }
  expect(Math.max(...way)).toBe(64);
  expect(Math.min(...way)).toBe(1);
  expect(way.indexOf(64)).toBeLessThan(way.indexOf(1));
  expect(way.at(-1)).toBeGreaterThan(2);
});
