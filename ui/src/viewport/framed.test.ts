import { Box3, BoxGeometry, Group, Mesh, PlaneGeometry, Vector3 } from "three";
import { expect, test } from "vitest";

import { cornersOf, placesOf } from "./framed";

const bounds = new Box3(new Vector3(-1, 0, -1), new Vector3(1, 2, 1));

/** A model whose first level has these meshes. */
const model = (...meshes: Mesh[]) => ({ levels: [{ meshes: meshes.map((mesh) => ({ mesh })) }] as never, bounds });

test("the places of a model are those of its vertices where its nodes have them", () => {
  const mesh = new Mesh(new BoxGeometry(2, 2, 2));
  const group = new Group();
  group.position.set(10, 0, 0);
  group.add(mesh);
  const places = placesOf(model(mesh, new Mesh(new PlaneGeometry(1, 1))));
  expect(places).toHaveLength(3 * (24 + 4));
  expect([Math.min(...places), Math.max(...places)]).toEqual([-1, 11]);
});

test("of many vertices some are asked, and of none the bounds", () => {
  const many = placesOf(model(new Mesh(new PlaneGeometry(1, 1, 300, 300))));
  expect(many.length / 3).toBeLessThan(60_000);
  expect(many.length / 3).toBeGreaterThan(20_000);
  expect(placesOf({ levels: [], bounds })).toEqual(cornersOf(bounds));
  expect(cornersOf(bounds)).toHaveLength(24);
  expect(cornersOf(bounds).slice(-3)).toEqual([1, 2, 1]);
});
