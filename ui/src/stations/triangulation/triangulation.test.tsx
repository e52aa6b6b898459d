import { screen, within } from "@testing-library/react";
import { expect, test } from "vitest";

import { crateWith } from "../../testing/crate";
import { choose, openStation, press, type } from "../../testing/station";
import { OpenTriangulation } from "./OpenTriangulation";

const compared = () =>
  within(screen.getByRole("region", { name: "The engine's cut compared" }))
    .getAllByRole("row")
    .map((row) => row.textContent);
const engine = crateWith().facts.triangulation!.engine!;

test("faces are counted by their sides, and quads cut against the rule are told", () => {
  const sides = { "3": 12, "4": 1500, "7": 1 };
  openStation(OpenTriangulation, crateWith({ facts: { triangulation: { sides, overruled_quads: 2 } } }));
  expect(screen.getByText(/2 concave quads took their other diagonal/)).toBeTruthy();
  for (const words of ["12", "1 500", "3 sides", "4 sides", "7 sides"]) expect(screen.getByText(words)).toBeTruthy();
});

test("what the engine's fan would change stands by kind; what breaks is marked", () => {
  const broken = {
    ...engine,
    quads: 10,
    quads_differ: 4,
    quad_degrees: 0.01,
    polygons: 3,
    polygons_differ: 1,
    flips: 2,
  };
  openStation(OpenTriangulation, crateWith({ facts: { triangulation: { engine: broken } } }));
  expect(compared()).toEqual([
    "4 / 10quads with another diagonalup to 0° of surface",
    "1 / 3larger polygons cut otherwiseshading up to 8.0°",
    "2fans with flipped trianglesseen through in the engine",
    "0fans that overlap themselvesdrawn twice, flickering",
    "0fans that leave the outlinesurface where there was none",
    "0polygons left wholeonly in OBJ and USD",
  ]);
  const cells = within(screen.getByRole("region", { name: "The engine's cut compared" })).getAllByRole("row");
  expect(cells.map((row) => row.querySelector("td")!.className.includes("text-stop"))).toEqual([
    false,
    false,
    true,
    false,
    false,
    false,
  ]);
});

test("polygons left whole that would break are counted", () => {
  openStation(
    OpenTriangulation,
    crateWith({ facts: { triangulation: { engine: { ...engine, whole: 5, whole_broken: 2 } } } }),
  );
  expect(compared().at(-1)).toBe("5polygons left whole2 of them break");
});

test("a source of triangles alone has nothing to compare", () => {
  openStation(OpenTriangulation, crateWith({ facts: { triangulation: { engine: null } } }));
  expect(screen.getByText(/There was nothing to cut/)).toBeTruthy();
  expect(screen.queryByRole("region", { name: "The engine's cut compared" })).toBeNull();
});

test("the rules are chosen, and flipped diagonals are taken back at once", () => {
  const flipped = [
    [
      [0, 0, 0],
      [1, 1, 1],
    ],
  ] as never;
  const { decide } = openStation(
    OpenTriangulation,
    crateWith({ settings: { triangulation: { flipped_diagonals: flipped } } }),
  );
  choose("Quads are cut along", "Better-shaped pair");
  expect(decide).toHaveBeenLastCalledWith("triangulation", { quads: "shapely" });
  choose("Larger polygons are cut", "Best-shaped triangles");
  expect(decide).toHaveBeenLastCalledWith("triangulation", { ngons: "shapely" });
  type("Cut from", "5,4");
  expect(decide).toHaveBeenLastCalledWith("triangulation", { min_sides: 5 });
  press("Reset 1 flipped diagonal");
  expect(decide).toHaveBeenLastCalledWith("triangulation", { flipped_diagonals: [] });
});
