import { screen, within } from "@testing-library/react";
import { expect, test } from "vitest";

import { crateWith } from "../../testing/crate";
import { choose, openStation, press, type } from "../../testing/station";
import { serve } from "../../testing/server";
import { OpenNaming } from "./OpenNaming";

const [base] = crateWith().names;

test("the names that ship stand as the engine reads them, level by level with their counts", () => {
  openStation(OpenNaming, crateWith());
  const shown = within(screen.getByRole("region", { name: "Names that ship" }));
  expect(shown.getByText("crate.glb")).toBeTruthy();
  expect(shown.getByText(/crate_LOD1/).textContent).toBe("crate_LOD1 mesh, 192 triangles, 126 engine vertices");
});

test("collision proxies stand below the levels, all in one line", () => {
  const { naming } = crateWith().facts;
  openStation(
    OpenNaming,
    crateWith({ facts: { naming: { ...naming!, proxies: ["crate_c_0", "crate_c_1"] } } as never }),
  );
  expect(screen.getByText(/crate_c_0/).textContent).toBe("crate_c_0 … crate_c_1 collision, 2 meshes");
});

test("a state has its own file, root and levels", () => {
  const state = { root: "crate_burnt", files: ["crate_burnt.glb", "crate_burnt.png"], levels: ["crate_burnt_LOD0"] };
  const states = [{ name: "burnt", levels: [{ ...crateWith().levels[0]!, triangles: 77, vertices: 60 }] }] as never;
  openStation(OpenNaming, crateWith({ names: [base!, state], states }));
  const shown = within(screen.getByRole("region", { name: "Names that ship" }));
  expect(shown.getByText("crate_burnt.glb, crate_burnt.png")).toBeTruthy();
  expect(shown.getByText(/crate_burnt_LOD0/).textContent).toBe(
    "crate_burnt_LOD0 mesh, 77 triangles, 60 engine vertices",
  );
});

test("files of earlier shipments that a new name leaves behind are told", async () => {
  serve({ "GET /api/props/1/left-behind": [{ destination: "Plain glTF", files: ["tea_chest.glb"] }] });
  openStation(OpenNaming, crateWith());
  expect((await screen.findByText(/An earlier shipment/)).textContent).toBe(
    "An earlier shipment to Plain glTF wrote tea_chest.glb; the next one leaves it behind.",
  );
});

test("the prop is renamed, and the rules of names are decided", () => {
  const { decide, rename } = openStation(OpenNaming, crateWith());
  type("Name", "tea_chest");
  expect(rename).toHaveBeenCalledWith("tea_chest");
  type("Prefix", "SM_");
  expect(decide).toHaveBeenLastCalledWith("naming", { prefix: "SM_" });
  type("Suffix", "_a");
  expect(decide).toHaveBeenLastCalledWith("naming", { suffix: "_a" });
  choose("Letters of names", "UPPER CASE");
  expect(decide).toHaveBeenLastCalledWith("naming", { case: "upper" });
  press("Allow hyphens", "checkbox");
  expect(decide).toHaveBeenLastCalledWith("naming", { hyphens: true });
});
