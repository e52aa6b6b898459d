import { fireEvent, screen, within } from "@testing-library/react";
import { expect, test, vi } from "vitest";

import type { PropDetail } from "../../api/client";
import { mount as mountView } from "../../testing/mount";
import { benchOf } from "../../testing/station";
import { BenchContext } from "../bench";
import { LevelTable } from "./LevelTable";
import { type Target, target } from "./targets";

const built = (index: number, triangles: number, distance: number) => ({
  index,
  target: index - 1,
  triangles,
  vertices: triangles,
  deviation: 0.0004 * index,
  distance,
  proposed: distance,
  dropped: [] as string[],
});

const CHAIN = [built(0, 8000, 0), built(1, 2000, 9.6), built(2, 500, 1300)];

function mount(levels: Target[], more: object = {}, chain = CHAIN.slice(0, levels.length + 1)) {
  const prop = {
    settings: { levels: { switch_bias: 1, levels, has_levels: true, lod0: null, min_triangles: 20, ...more } },
    levels: chain,
    parts: [],
    facts: {},
  } as unknown as PropDetail;
  const [decide, onLevel, onPreview] = [vi.fn(), vi.fn(), vi.fn()];
  mountView(
    <BenchContext value={benchOf(prop)}>
      <LevelTable prop={prop} left={0} onLevel={onLevel} decide={decide} onPreview={onPreview} />
    </BenchContext>,
  );
  return { decide, onLevel, onPreview };
}

const cells = (name: string) =>
  within(screen.getByRole("button", { name }).closest("tr") as HTMLElement)
    .getAllByRole("cell")
    .map((cell) => cell.textContent);

test("a level is one row: name, target, triangles, deviation, switch distance", () => {
  mount([target({ ratio: 0.25 }), target({ triangles: 500, tolerance_mm: 2 })]);
  expect(cells("LOD1")).toEqual(["LOD1", "% tris", "2\u202f000", "0.4 mm", "9.6 m", "⋯"]);
  expect(cells("LOD2")).toEqual(["LOD2", "tris", "500", "0.8 mm", "1.3 km", "⋯"]);
  expect(screen.getByText("at most 500 tris and at most 2 mm deviation")).toBeTruthy();
});

test("a level that was not built says so, and cannot be shown", () => {
  const { onLevel } = mount([1, 2, 3].map((i) => target({ ratio: 0.5 ** i })));
  expect(cells("LOD3")[2]).toBe("skipped");
  fireEvent.click(screen.getByRole("button", { name: "LOD3" }));
  expect(onLevel).not.toHaveBeenCalled();
  fireEvent.click(screen.getByRole("button", { name: "LOD2" }));
  expect(onLevel).toHaveBeenCalledWith(2);
});

test("what follows a skipped level has the number that it ships under", () => {
  const levels = [built(0, 8000, 0), built(1, 2000, 9.6), { ...built(2, 500, 40), target: 2 }];
  const { onLevel } = mount(
    [1, 2, 3].map((i) => target({ ratio: 0.5 ** i })),
    {},
    levels,
  );
  expect(cells("skipped level 2").slice(0, 3)).toEqual(["–", "% tris", "skipped"]);
  expect(cells("LOD2")[2]).toBe("500");
  expect(screen.queryByRole("button", { name: "LOD3" })).toBeNull();
  fireEvent.click(screen.getByRole("button", { name: "LOD2" }));
  expect(onLevel).toHaveBeenCalledWith(2);
});

test("levels of the base follow those of the line, and leave LOD0 its name", () => {
  mount([target({ ratio: 0.25 })], {}, [built(0, 8000, 0), built(1, 2000, 9.6), { ...built(2, 90, 40), target: -1 }]);
  expect(cells("LOD0")[2]).toBe("8\u202f000");
  expect(cells("LOD2").slice(0, 3)).toEqual(["LOD2", "base", "90"]);
});

test("before anything is built no level is said to be skipped", () => {
  mount([target({ ratio: 0.5 })], {}, []);
  expect(cells("LOD0").slice(0, 3)).toEqual(["LOD0", "source", ""]);
  expect(cells("LOD1").slice(0, 3)).toEqual(["LOD1", "% tris", ""]);
});

test("a level that is removed leaves no other one open in its place", () => {
  const { decide } = mount([target({ ratio: 0.25 }), target({ ratio: 0.1 })]);
  fireEvent.click(screen.getByRole("button", { name: "More of LOD1" }));
  fireEvent.click(screen.getByRole("button", { name: "Remove LOD1" }));
  expect(decide).toHaveBeenCalledWith("levels", { levels: [target({ ratio: 0.1 })] });
  expect(screen.queryByRole("button", { name: /^Remove/ })).toBeNull();
});

test("typing previews, leaving the field decides, and nonsense is put back", () => {
  const { decide, onPreview } = mount([target({ ratio: 0.25 })]);
  const field = screen.getByLabelText("LOD1: percent of LOD0's triangles") as HTMLInputElement;
  fireEvent.change(field, { target: { value: "12,5" } });
  expect(onPreview).toHaveBeenLastCalledWith("ratio", 0.125);
  expect(decide).not.toHaveBeenCalled();
  fireEvent.blur(field);
  expect(decide).toHaveBeenCalledWith("levels", { levels: [target({ ratio: 0.125 })] });
  decide.mockClear();
  fireEvent.change(field, { target: { value: "-3" } });
  fireEvent.blur(field);
  expect(decide).not.toHaveBeenCalled();
  expect(field.value).toBe("25");
});

test("levels are added, taken out and kept in falling order", () => {
  const { decide } = mount([target({ ratio: 0.5 }), target({ ratio: 0.25 })]);
  fireEvent.click(screen.getByRole("button", { name: "+ Add a level" }));
  expect(decide.mock.lastCall?.[1].levels.map((one: Target) => one.ratio)).toEqual([0.5, 0.25, 0.125]);
  const field = screen.getByLabelText("LOD2: percent of LOD0's triangles");
  fireEvent.change(field, { target: { value: "75" } });
  fireEvent.blur(field);
  expect(decide.mock.lastCall?.[1].levels.map((one: Target) => one.ratio)).toEqual([0.75, 0.5]);
});

test("a prop without levels shows its LOD0 alone", () => {
  mount([], { has_levels: false });
  expect(screen.queryByRole("button", { name: "+ Add a level" })).toBeNull();
  expect(screen.getAllByRole("row")).toHaveLength(2);
});
