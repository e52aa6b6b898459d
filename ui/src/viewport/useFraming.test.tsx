import { fireEvent, renderHook } from "@testing-library/react";
import { PerspectiveCamera, Vector3 } from "three";
import type { OrbitControls } from "three/addons/controls/OrbitControls.js";
import { expect, test, vi } from "vitest";

import { makeView } from "../testing/view";
import { type Covered, FIELD_OF_VIEW } from "./fitting";
import { type Frame, useFraming } from "./useFraming";

/** The corners of a post of 1 × 2 × 1 m on the ground. */
const post = [0, 1, 2, 3, 4, 5, 6, 7].map((i) => new Vector3((i & 1) - 0.5, i & 2, (i & 4) / 4 - 0.5));
const before = new Vector3(0.6, 0.5, 0.6).normalize();

/** One and the same for one height: another asks for the frame again. */
const known = new Map<number, Covered>();
const coveredBy = (foot: number) => {
  const covered = known.get(foot) ?? { foot, corner: [] };
  known.set(foot, covered);
  return covered;
};

function open(under: number, places = post.flatMap((corner) => corner.toArray())) {
  const camera = new PerspectiveCamera(FIELD_OF_VIEW, 4 / 3, 0.01, 100);
  const controls = { target: new Vector3(), minDistance: 0, maxDistance: 9, update: vi.fn() };
  const frame: Frame = { stamp: 0, places, direction: before };
  const { View, size } = makeView({ camera });
  const { rerender } = renderHook(
    (now: { frame: Frame; under: number; room?: string }) =>
      useFraming(now.frame, coveredBy(now.under), now.room ?? "levels", 1, controls as unknown as OrbitControls),
    { wrapper: View, initialProps: { frame, under } },
  );
  const look = () => {
    camera.lookAt(controls.target);
    camera.updateMatrixWorld();
  };
  return {
    camera,
    frame,
    size,
    look,
    again: (next: { frame?: Frame; under: number; room?: string }) => rerender({ frame, ...next }),
    /** From where to where the post reaches in the picture, in pixels of its 300 from the foot. */
    reach: () => {
      look();
      const heights = post.map((corner) => 150 * (1 + corner.clone().project(camera).y));
      return [Math.min(...heights), Math.max(...heights)] as const;
    },
    away: () => camera.position.distanceTo(controls.target),
  };
}

test.each([0, 40, 84])("all is seen above what stands over %i pixels of the foot", (under) => {
  const [lowest, highest] = open(under).reach();
  expect(lowest).toBeGreaterThan(under);
  expect(highest).toBeLessThan(300);
  // And no smaller than leaves a margin there.
  expect((highest - lowest) / (300 - under)).toBeCloseTo(1 / 1.12, 2);
});

test("what is wide fills the width, and lies in the middle of it", () => {
  const { camera, look } = open(0, [-3, 0, 0, 3, 0, 0, 3, 0.2, 1, -3, 0.2, 1]);
  look();
  const across = [-3, 3].flatMap((x) =>
    [new Vector3(x, 0, 0), new Vector3(x, 0.2, 1)].map((at) => at.project(camera).x),
  );
  expect(Math.max(...across)).toBeCloseTo(1 / 1.12, 2);
  expect(Math.min(...across)).toBeCloseTo(-1 / 1.12, 2);
});

test("what comes to stand there by itself moves the picture up, and the eye back", () => {
  const { again, reach, away } = open(0);
  const first = away();
  again({ under: 84 });
  expect(reach()[0]).toBeGreaterThan(84);
  expect(away()).toBeGreaterThan(1.1 * first);
});

test("what appears after a press moves nothing; another room or all asked for again does", () => {
  const { frame, again, reach } = open(0);
  const first = reach();
  fireEvent.keyDown(window, { key: "o" });
  again({ under: 84 });
  expect(reach()).toEqual(first);
  again({ under: 84, room: "normals" });
  expect(reach()[0]).toBeGreaterThan(84);
  fireEvent.pointerDown(window);
  again({ under: 0, room: "normals" });
  expect(reach()[0]).toBeGreaterThan(84);
  again({ frame: { ...frame, stamp: 1 }, under: 0, room: "normals" });
  expect(reach()).toEqual(first);
});

test("a view that becomes narrower by itself is filled anew", () => {
  const { size, again, away } = open(0);
  const first = away();
  size.width = 100;
  again({ under: 0 });
  expect(away()).toBeGreaterThan(1.1 * first);
});

test("an eye that was moved by hand stays, until all is asked for again", () => {
  const { camera, frame, again, reach } = open(0);
  camera.position.multiplyScalar(1.5);
  const moved = camera.position.clone();
  again({ under: 84, room: "normals" });
  expect(camera.position).toEqual(moved);
  again({ frame: { ...frame, stamp: 1, direction: null }, under: 84 });
  expect(camera.position.length()).toBeLessThan(moved.length());
  expect(reach()[0]).toBeGreaterThan(84);
});
