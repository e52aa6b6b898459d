import { fireEvent, screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";

import { crateWith } from "../../testing/crate";
import { mount } from "../../testing/mount";
import { benchOf, choose, press, type } from "../../testing/station";
import { BenchContext } from "../bench";
import { LevelMore } from "./LevelMore";
import { type Target, target } from "./targets";

const LOD1 = crateWith().levels[1]!;

function more(one: Target, { place = 1, prop = crateWith(), ends = true } = {}) {
  const [onChange, onRemove, onInsert] = [vi.fn(), vi.fn(), vi.fn()];
  mount(
    <BenchContext value={benchOf(prop)}>
      <LevelMore
        place={place}
        name={`LOD${place}`}
        one={one}
        built={LOD1}
        prop={prop}
        onChange={onChange}
        onRemove={ends ? onRemove : null}
        onInsert={ends ? onInsert : null}
      />
    </BenchContext>,
  );
  return { onChange, onRemove, onInsert };
}

test("limits are changed, exchanged, added and taken away; percent is decided as a share", () => {
  const { onChange } = more(target({ ratio: 0.5, tolerance_mm: 2 }));
  type("LOD1, percent of LOD0's triangles", "12,5");
  expect(onChange).toHaveBeenLastCalledWith(target({ ratio: 0.125, tolerance_mm: 2 }));
  fireEvent.click(screen.getAllByRole("button", { name: "Remove this limit of LOD1" })[1]!);
  expect(onChange.mock.lastCall![0]).toMatchObject({ ratio: 0.5, tolerance_mm: null });
  press("Another limit for LOD1");
  expect(onChange.mock.lastCall![0]).toMatchObject({ ratio: 0.5, tolerance_mm: 2, tolerance: 0.5 });
});

test("another limit starts from what suits the prop", () => {
  const { onChange } = more(target({ ratio: 0.5 }));
  choose("Limit of LOD1", "triangles");
  expect(onChange.mock.lastCall![0]).toMatchObject({ ratio: null, triangles: 96 });
  choose("Limit of LOD1", "maximum pixel error");
  expect(onChange.mock.lastCall![0]).toMatchObject({ ratio: null, pixels: 1, distance: 10 });
});

test("a limit in pixels has its distance, and cannot be the last to go", () => {
  const { onChange } = more(target({ pixels: 2, distance: 15 }));
  type("LOD1: metres from the viewer", "30");
  expect(onChange.mock.lastCall![0]).toMatchObject({ pixels: 2, distance: 30 });
  expect(screen.queryByRole("button", { name: "Remove this limit of LOD1" })).toBeNull();
});

test("three limits are enough", () => {
  more(target({ ratio: 0.5, triangles: 90, tolerance_mm: 2 }));
  expect(screen.queryByRole("button", { name: "Another limit for LOD1" })).toBeNull();
  expect(screen.getAllByText("and at most")).toHaveLength(2);
});

test("an empty field is as the chain has it", () => {
  const { onChange } = more(target({ ratio: 0.5, silhouette_weight: 0.4, switch_distance: 12 }));
  type("Silhouette weight", "");
  expect(onChange.mock.lastCall![0]).toMatchObject({ silhouette_weight: null, switch_distance: 12 });
  type("Switch distance", " 8,5 ");
  expect(onChange.mock.lastCall![0]).toMatchObject({ silhouette_weight: 0.4, switch_distance: 8.5 });
  type("Curvature weight", "25");
  expect(onChange.mock.lastCall![0], "as much as the server takes").toMatchObject({ curvature_weight: 10 });
});

test("what is no number, or may not be, is put back", () => {
  const { onChange } = more(target({ ratio: 0.5, curvature_weight: 0.4, switch_distance: 12 }));
  type("Curvature weight", "much");
  type("Switch distance", "0");
  expect(onChange).not.toHaveBeenCalled();
  expect((screen.getByLabelText("Curvature weight") as HTMLInputElement).value).toBe("0.4");
});

test("the switch that is proposed stands in its field before the bias, as one that is typed", () => {
  const placeholder = (prop = crateWith()) => {
    more(target({ ratio: 0.5 }), { prop });
    return (screen.getAllByLabelText("Switch distance").at(-1) as HTMLInputElement).placeholder;
  };
  expect(placeholder()).toBe("14.1");
  expect(placeholder(crateWith({ settings: { levels: { switch_bias: 2 } } }))).toBe("7.06");
});

test("a remeshed level has an edge length and no weights; without it the length goes too", () => {
  const { onChange } = more(target({ ratio: 0.5, remesh: true, edge_length_mm: 20 }));
  expect(screen.queryByLabelText("Silhouette weight")).toBeNull();
  type("Edge length", "35");
  expect(onChange.mock.lastCall![0]).toMatchObject({ remesh: true, edge_length_mm: 35 });
  press("Isotropic remesh", "checkbox");
  expect(onChange.mock.lastCall![0]).toMatchObject({ remesh: false, edge_length_mm: null });
});

test("normals are the chain's unless the level has its own", () => {
  const { onChange } = more(target({ ratio: 0.5, normals: "keep" }));
  choose("Normals of LOD1", "recompute");
  expect(onChange.mock.lastCall![0].normals).toBe("recompute");
  choose("Normals of LOD1", "as the chain's");
  expect(onChange.mock.lastCall![0].normals).toBeNull();
});

test("parts are excluded by pattern or by a tick; what a pattern took is not ticked back", () => {
  const prop = crateWith();
  const { onChange } = more(target({ ratio: 0.5, excluded_parts: ["strap"] }), { prop });
  press("lid", "checkbox");
  expect(onChange.mock.lastCall![0].excluded_parts).toEqual(["strap", "lid"]);
  press("strap", "checkbox");
  expect(onChange.mock.lastCall![0].excluded_parts).toEqual([]);
  type("Excluded parts", "*bolt*, , lid");
  expect(onChange.mock.lastCall![0].excluded_parts).toEqual(["*bolt*", "lid"]);
});

test("LOD0 has no switch, no texture steps and no mesh of its own", () => {
  more(target({ ratio: 0.5 }), { place: 0, ends: false });
  for (const name of ["Switch distance", "Textures halved", "Exclude parts under"])
    expect(screen.queryByLabelText(name), name).toBeNull();
  expect(screen.queryByLabelText("Mesh of LOD0")).toBeNull();
  expect(screen.queryByRole("button", { name: /Insert/ })).toBeNull();
});

test("a level is removed, and one is put in below it", () => {
  const { onRemove, onInsert } = more(target({ ratio: 0.5 }));
  press("Insert a level below LOD1");
  press("Remove LOD1");
  expect([onInsert.mock.calls.length, onRemove.mock.calls.length]).toEqual([1, 1]);
});

test("a level modelled by hand has no limits, and can be computed again", () => {
  const { onChange } = more(target({ ratio: 0.5, hand_made: "crate_low.obj" }));
  expect(screen.queryByText("at most")).toBeNull();
  expect(screen.getByText("crate_low.obj")).toBeTruthy();
  press("Compute LOD1 again");
  expect(onChange.mock.lastCall![0]).toMatchObject({ hand_made: null, ratio: 0.5 });
});

test("textures are halved a whole number of times", () => {
  const { onChange } = more(target({ ratio: 0.5 }));
  type("Textures halved", "2.4");
  expect(onChange.mock.lastCall![0].texture_step).toBe(2);
  type("Textures halved", "40");
  expect(onChange.mock.lastCall![0].texture_step).toBe(8);
});
