import { BoxGeometry, Group, Mesh, Sphere, Vector3 } from "three";
import { afterEach, expect, test } from "vitest";

import type { WalkAsset } from "./loadAsset";
import { makeWalkWorld, WALKER, type WalkWorld } from "./walkWorld";

let world: WalkWorld;
afterEach(() => world.free());

/** A wall of 2 m across, 2 m high and 0.2 m deep, its foot on the floor. */
const wall = (): WalkAsset => ({
  levels: [{ object: new Group(), number: 0 }],
  proxies: [new Mesh(new BoxGeometry(2, 2, 0.2).translate(0, 1, 0))],
  sphere: new Sphere(new Vector3(0, 1, 0), 1.5),
});
const ahead = new Vector3(0, 0, -WALKER.pace);

/** Walks ahead for some seconds; what stopped it last. */
function walk(seconds: number): string | null {
  let stoppedBy: string | null = null;
  for (let k = 0; k < seconds * 60; k++) stoppedBy = world.walk(ahead, 1 / 60);
  return stoppedBy;
}

test("someone walks at a pace, at the height of the eyes, where nothing stands in the way", async () => {
  world = await makeWalkWorld({ x: 0, z: 3, turn: 0 });
  expect(world.eye.y).toBeCloseTo(WALKER.eyes, 1);
  expect(walk(1)).toBeNull();
  expect(world.eye.z).toBeCloseTo(3 - WALKER.pace, 1);
});

test("a proxy stops who walks against it, in front of its side, and says whose it is", async () => {
  world = await makeWalkWorld({ x: 0, z: 3, turn: 0 });
  world.place("7", wall(), { x: 0, z: 0, turn: 0 });
  expect(walk(4)).toBe("7");
  expect(world.eye.z).toBeGreaterThan(0.1 + WALKER.radius - 0.02);
  expect(world.eye.z).toBeLessThan(0.1 + WALKER.radius + 0.1);
});

test("a proxy stands where its asset does, turned as it is, and no more where it was before", async () => {
  world = await makeWalkWorld({ x: 0, z: 3, turn: 0 });
  world.place("7", wall(), { x: 0, z: 0, turn: 0 });
  world.place("7", wall(), { x: 0, z: -2, turn: 90 });
  expect(walk(4)).toBe("7");
  // Turned by a quarter its end is ahead, one metre from its middle.
  expect(world.eye.z).toBeCloseTo(-2 + 1 + WALKER.radius, 0);
  world.take("7");
  expect(walk(2)).toBeNull();
  world.stand({ x: 5, z: 5 });
  expect(world.eye.x).toBeCloseTo(5);
});

test("a world that is given back does nothing more", async () => {
  world = await makeWalkWorld({ x: 0, z: 3, turn: 0 });
  world.free();
  world.take("7");
  expect(world.walk(ahead, 0.1)).toBeNull();
  world = await makeWalkWorld({ x: 0, z: 0, turn: 0 });
});
