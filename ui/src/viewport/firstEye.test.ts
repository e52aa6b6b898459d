import { BoxGeometry, type BufferGeometry, DoubleSide, FrontSide, Mesh, MeshBasicMaterial, PlaneGeometry } from "three";
import { expect, test } from "vitest";

import { firstEye } from "./firstEye";

/** A level of these geometries, with one side or two. */
const level = (geometries: BufferGeometry[], side: typeof FrontSide | typeof DoubleSide = FrontSide) => ({
  meshes: geometries.map((geometry) => {
    const own = new MeshBasicMaterial({ side });
    return { mesh: new Mesh(geometry, own), own, flat: own, wire: new Mesh(geometry, own) } as never;
  }),
});
const signs = (...geometries: BufferGeometry[]) => firstEye(level(geometries)).toArray().map(Math.sign);
const USUAL = [1, 1, 1];

test("what is closed is looked at from before it, to its right and above", () => {
  const eye = firstEye(level([new BoxGeometry(1, 3, 0.01)]));
  expect(eye.toArray().map((one) => Number(one.toFixed(3)))).toEqual([0.619, 0.359, 0.699]);
  expect(eye.length()).toBeCloseTo(1);
});

test("a sheet is looked at from the side that it is drawn on", () => {
  expect(signs(new PlaneGeometry(1, 1)), "it faces the usual eye").toEqual(USUAL);
  expect(signs(new PlaneGeometry(1, 1).rotateY(Math.PI)), "it faces back").toEqual([1, 1, -1]);
  expect(signs(new PlaneGeometry(1, 1).rotateX(Math.PI / 2)), "it faces down").toEqual([1, -1, 1]);
  expect(signs(new PlaneGeometry(1, 1).rotateY(-Math.PI / 2)), "it faces left").toEqual([-1, 1, 1]);
  expect(signs(new PlaneGeometry(1, 1).rotateY(Math.PI).toNonIndexed())).toEqual([1, 1, -1]);
});

test("a sheet of two sides is seen from the usual place, and so is one with enough beside it", () => {
  const back = new PlaneGeometry(1, 1).rotateY(Math.PI);
  expect(
    firstEye(level([back], DoubleSide))
      .toArray()
      .map(Math.sign),
  ).toEqual(USUAL);
  expect(signs(back, new BoxGeometry(1, 1, 1))).toEqual(USUAL);
  expect(signs(back, new BoxGeometry(0.1, 0.1, 0.1)), "a knob is too little to look at").toEqual([1, 1, -1]);
});

test("of many triangles some are asked, and nothing is looked at from the usual place", () => {
  expect(signs(new PlaneGeometry(1, 1, 300, 300).rotateY(Math.PI))).toEqual([1, 1, -1]);
  expect(signs()).toEqual(USUAL);
});
