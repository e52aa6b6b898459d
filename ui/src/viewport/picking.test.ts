import { Vector3 } from "three";
import { expect, test } from "vitest";

import { type Hit, snapped } from "./Picker";
import { placesAt, placesBox } from "./Places";

const at = (...values: [number, number, number]) => new Vector3(...values);

function clicked(point: Vector3): Hit {
  return { point, corners: [at(0, 0, 0), at(4, 0, 0), at(0, 4, 0)], node: "part_lid" };
}

test.each([
  ["vertex", [0.5, 0.4, 0], [0, 0, 0]],
  ["vertex", [3.1, 0.4, 0], [4, 0, 0]],
  ["vertex", [0.1, 3.5, 0], [0, 4, 0]],
  ["edge", [1.8, 0.2, 0], [2, 0, 0]],
  ["edge", [0.2, 1.7, 0], [0, 2, 0]],
  ["edge", [1.9, 1.8, 0], [2, 2, 0]],
  ["face", [1.1, 1.2, 0], [1.1, 1.2, 0]],
] as const)("a click snaps to the nearest %s: %j to %j", (to, point, wanted) => {
  expect(snapped(clicked(at(...(point as [number, number, number]))), to).toArray()).toEqual(wanted);
});

test("snapping leaves the corners as they are", () => {
  const hit = clicked(at(1, 1, 0));
  snapped(hit, "edge").set(9, 9, 9);
  expect(hit.corners.map((corner) => corner.toArray())).toEqual([
    [0, 0, 0],
    [4, 0, 0],
    [0, 4, 0],
  ]);
});

const edges = {
  kind: "edges" as const,
  points: [
    [
      [0, 0, 0],
      [2, 0, 0],
    ],
    [
      [0, 1, 0],
      [0, 1, 6],
    ],
  ],
};

test("one place of a finding is led to alone; a number that it has not leads to all", () => {
  expect(placesAt(edges, 1)).toEqual({ kind: "edges", points: [edges.points[1]] });
  expect(placesAt(edges, null)).toBe(edges);
  expect(placesAt(edges, 7)).toBe(edges);
});

test("the box around places holds all of them, and is never too small to be seen in", () => {
  const box = placesBox(edges, 0.1);
  expect(box.min.toArray()).toEqual([0, 0, 0]);
  expect(box.max.toArray()).toEqual([2, 1, 6]);
  const one = placesBox({ kind: "vertices", points: [[[5, 5, 5]]] }, 0.25);
  expect(one.min.toArray()).toEqual([4.75, 4.75, 4.75]);
  expect(one.max.toArray()).toEqual([5.25, 5.25, 5.25]);
});
