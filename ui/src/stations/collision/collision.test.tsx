import { fireEvent, screen, within } from "@testing-library/react";
import { Box3, BoxGeometry, Mesh, Vector3 } from "three";
import { afterEach, expect, test } from "vitest";

import { crateWith } from "../../testing/crate";
import { choose, openStation, type } from "../../testing/station";
import { COLLISION } from ".";
import { OpenCollision } from "./OpenCollision";
import { makePlayWorld, type PlayWorld, RATE } from "./physics";
import { type CollisionFacts, fitOf, volume } from "./words";

const proxy = (changes: Partial<CollisionFacts["proxies"][number]> = {}) => ({
  shape: "hull" as const,
  part: "",
  corners: 32,
  triangles: 60,
  volume: 0.0426,
  numbers: [],
  ...changes,
});
const collision: CollisionFacts = {
  proxies: [proxy(), proxy({ shape: "ball", part: "crate/lid", corners: 114, triangles: 224 })],
  volume: 0.1,
  enclosed: 0.0625,
  added: 0.6,
  missed: 0.0052,
};
const withProxies = () => {
  const { naming } = crateWith().facts;
  return crateWith({
    facts: { collision, naming: { ...naming!, proxies: ["crate_collision_0", "crate_collision_1"] } },
    settings: { collision: { ...crateWith().settings.collision, kind: "pieces" } },
  });
};

test("the stop says what stops", () => {
  expect(COLLISION.summary(crateWith())).toBe("none");
  expect(COLLISION.summary(withProxies())).toBe("2 proxies");
  expect(COLLISION.summary(crateWith({ facts: { collision: { ...collision, proxies: [proxy()] } } }))).toBe("hull");
});

test("every proxy stands in figures, and one is taken in hand", () => {
  openStation(OpenCollision, withProxies());
  const [, ...rows] = within(screen.getByRole("region", { name: "Collision proxies" })).getAllByRole("row");
  expect(rows.map((row) => [...row.children].map((cell) => cell.textContent))).toEqual([
    ["crate_collision_0", "hull", "32", "60", "42.6 L", "the whole"],
    ["crate_collision_1", "ball", "114", "224", "42.6 L", "crate/lid"],
  ]);
  expect(
    screen.getByText("Together they add 60 % to the prop's volume; 0.52 % of its surface lies outside."),
  ).toBeTruthy();
  const name = screen.getByRole("button", { name: "crate_collision_1" });
  fireEvent.click(name);
  expect(name.getAttribute("aria-pressed")).toBe("true");
  fireEvent.click(name);
  expect(name.getAttribute("aria-pressed")).toBe("false");
});

test("kind and measures are decided; measures show where they count", () => {
  const { decide } = openStation(OpenCollision, crateWith());
  expect(screen.getByText("Nothing ships for physics.")).toBeTruthy();
  expect(screen.queryByLabelText("Margin")).toBeNull();
  choose("Kind of collision", "Convex pieces");
  expect(decide).toHaveBeenLastCalledWith("collision", { kind: "pieces" });
});

test("a margin is given in millimetres", () => {
  const { decide } = openStation(OpenCollision, withProxies());
  type("Margin", "12");
  expect(decide).toHaveBeenLastCalledWith("collision", { margin: 0.012 });
  type("Most pieces", "5");
  expect(decide).toHaveBeenLastCalledWith("collision", { pieces: 5 });
});

test("volumes have the unit that suits them, and the fit is told either way", () => {
  expect([2, 0.0426, 0.000_61].map(volume)).toEqual(["2.00 m³", "42.6 L", "610 mL"]);
  expect(fitOf({ ...collision, added: -0.2, missed: 0 })).toBe(
    "Together they leave 20 % of the prop's volume; none of its surface lies outside.",
  );
});

let world: PlayWorld | null = null;
afterEach(() => {
  world?.free();
  world = null;
});

/** What is said within so many seconds, in their order. */
const said = (seconds: number) => {
  const found: string[] = [];
  for (let k = 0; k < seconds * RATE; k++) {
    const words = world?.step();
    if (words) found.push(words);
  }
  return found;
};
const bounds = new Box3(new Vector3(-1, 0, -1), new Vector3(1, 2, 1));
const block = () => new Mesh(new BoxGeometry(2, 2, 2).translate(0, 1, 0));

test("a ball comes to rest on the collision, and on the floor where there is none", async () => {
  world = await makePlayWorld([block()], bounds);
  world.drop();
  expect(said(8)).toEqual(["The ball came to rest on the collision, 2.00 m above the floor."]);
  expect(world.isMoving).toBe(false);
  world.free();
  world = await makePlayWorld([], bounds);
  world.drop();
  expect(said(8)).toEqual(["The ball came to rest on the floor."]);
});

test("a walker is stopped at the collision, and goes past where there is none", async () => {
  world = await makePlayWorld([block()], bounds);
  world.push(new Vector3(0, 0, 1));
  const [stopped] = said(9);
  expect(stopped).toMatch(/^The walker was stopped, his front 1\.0\d m from the prop's middle\.$/);
  expect(world.isMoving).toBe(false);
  world.free();
  world = await makePlayWorld([], bounds);
  world.push(new Vector3(1, 0, 0));
  expect(said(9)).toEqual(["The walker went past: nothing stopped him on this way."]);
});
