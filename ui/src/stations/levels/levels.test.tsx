import { act, fireEvent, render, screen, within } from "@testing-library/react";
import { Vector3 } from "three";
import { expect, test, vi } from "vitest";

import type { PropDetail } from "../../api/client";
import { crateWith } from "../../testing/crate";
import { modelOf } from "../../testing/level";
import { choose, openStation, press, type } from "../../testing/station";
import { EyeStore } from "../../viewport/viewState";
import type { Shown } from "../bench";
import { LevelFigures } from "./sight/LevelFigures";
import { OpenLevels } from "./OpenLevels";
import { SightChart } from "./sight/SightChart";
import { StatesSettings } from "./StatesSettings";
import { target } from "./targets";

vi.mock("@react-three/fiber", async (original) => ({ ...(await original<object>()), useFrame: () => undefined }));
vi.mock("../../viewport/WalkCamera", () => ({ WalkCamera: () => null }));
vi.mock("../../viewport/SwitchPicture", () => ({ SwitchPicture: () => null }));
vi.mock("../../viewport/Redrawn", () => ({ Redrawn: () => null }));

const lastShown = (bench: ReturnType<typeof openStation>) => vi.mocked(bench.show).mock.lastCall![0] as Shown;
const triangle = [0, 0, 0, 1, 0, 0, 1, 0, -1];
/** A model of as many levels as the crate has. */
const model = () => {
  const one = modelOf([{ material: "rust", positions: triangle }]);
  return { ...one, levels: [0, 1, 2, 3].map((i) => ({ ...one.levels[0]!, name: `crate_LOD${i}` })) };
};

test("what holds for the whole chain is decided each by itself", () => {
  const { decide } = openStation(OpenLevels, crateWith());
  choose("Vertex placement", "LOD0's own, one buffer");
  expect(decide).toHaveBeenLastCalledWith("levels", { placement: "original" });
  choose("Normals of the levels", "Transfer from LOD0");
  expect(decide).toHaveBeenLastCalledWith("levels", { normals: "transfer" });
  press("Keep all shells", "checkbox");
  expect(decide).toHaveBeenLastCalledWith("levels", { keep_shells: true });
  press("Keep through-holes", "checkbox");
  expect(decide).toHaveBeenLastCalledWith("levels", { keep_holes: true });
  type("Maximum pixel error", "0,5");
  expect(decide).toHaveBeenLastCalledWith("levels", { max_pixel_error: 0.5 });
  type("Not drawn beyond", "250");
  expect(decide).toHaveBeenLastCalledWith("levels", { cull_distance: 250 });
  type("Not drawn beyond", "far");
  expect(decide, "what is no number is put back").toHaveBeenLastCalledWith("levels", { cull_distance: 250 });
});

test("the side that is mirrored is asked only where something is", () => {
  openStation(OpenLevels, crateWith());
  expect(screen.queryByRole("combobox", { name: "Side that is mirrored" })).toBeNull();
});

test("a mirrored prop has its side, and may be mirrored no more", () => {
  const { decide } = openStation(OpenLevels, crateWith({ settings: { levels: { mirror: "found" } } }));
  choose("Side that is mirrored", "from −");
  expect(decide).toHaveBeenLastCalledWith("levels", { mirror_from: "negative" });
  choose("Mirror", "none");
  expect(decide).toHaveBeenLastCalledWith("levels", { mirror: "off" });
});

test("parts and patches are protected; patches go at once", () => {
  const spot = { point: [0, 0, 0], facing: [0, 1, 0], by: "angle", angle: 20 } as never;
  const settings = { levels: { protected: [spot, spot], protected_parts: ["lid"] } };
  const { decide } = openStation(OpenLevels, crateWith({ settings }));
  press("body", "checkbox");
  expect(decide).toHaveBeenLastCalledWith("levels", { protected_parts: ["lid", "body"] });
  press("lid", "checkbox");
  expect(decide).toHaveBeenLastCalledWith("levels", { protected_parts: [] });
  press("clear 2 patches");
  expect(decide).toHaveBeenLastCalledWith("levels", { protected: [] });
});

test("a patch of LOD0 is protected by a click, one click each", () => {
  const bench = openStation(OpenLevels, crateWith(), { model: model() });
  press("Protect a patch");
  const corners: [Vector3, Vector3, Vector3] = [new Vector3(0, 0, 0), new Vector3(1, 0, 0), new Vector3(1, 0, -1)];
  act(() => lastShown(bench).onPick!({ point: new Vector3(0.5, 0, -0.2), corners, node: "crate_LOD0" }));
  const [, { protected: patches }] = vi.mocked(bench.decide).mock.lastCall! as [string, { protected: unknown[] }];
  expect(patches).toMatchObject([{ by: "angle", angle: 20, facing: [0, 1, 0] }]);
  expect(lastShown(bench).onPick).toBeNull();
});

test("the row of a level shows it, and the walk begins and ends with W", () => {
  const bench = openStation(OpenLevels, crateWith(), { model: model() });
  press("LOD2");
  expect(bench.setLeft).toHaveBeenLastCalledWith(2);
  expect(lastShown(bench).levels).toHaveLength(4);
  fireEvent.keyDown(document.body, { key: "w" });
  expect(lastShown(bench).levels, "the walk has its own reading").toBeNull();
  fireEvent.keyDown(document.body, { key: "w" });
  expect(lastShown(bench).levels).toHaveLength(4);
});

test("a state's levels are seen and decided in its place, and the base's stay", () => {
  const burnt = { name: "burnt", parts: ["lid"], shared_parts: [], levels: [target({ ratio: 0.4 })] };
  const levels = crateWith().levels.slice(0, 2);
  const states = [{ name: "burnt", levels, model: null, cull_distance: 40, radius: 0.7, fallen_back: 0 }] as never;
  const { decide, ...bench } = openStation(
    OpenLevels,
    crateWith({ states, settings: { levels: { states: [burnt] as never } } }),
    { model: model() },
  );
  const choice = screen.getByRole("radiogroup", { name: /state/i });
  fireEvent.click(within(choice).getByText("burnt"));
  expect(vi.mocked(bench.show).mock.lastCall![0].levels).toHaveLength(2);
  type("LOD1: percent of LOD0's triangles", "30");
  expect(decide).toHaveBeenLastCalledWith("levels", { states: [{ ...burnt, levels: [target({ ratio: 0.3 })] }] });
});

function states(list: object[], made: object[] = []) {
  const decide = vi.fn();
  render(
    <StatesSettings
      prop={crateWith({ states: made as never, settings: { levels: { states: list as never } } })}
      decide={decide}
    />,
  );
  return { decide, last: () => decide.mock.lastCall![1].states as object[] };
}
const DAMAGED = { name: "damaged", parts: ["*_damaged"], shared_parts: [], levels: null };

test("a new state has a name that is free, and parts by it", () => {
  const { last } = states([DAMAGED]);
  press("+ Add a state");
  expect(last()).toEqual([DAMAGED, { name: "burnt", parts: ["*_burnt"], shared_parts: [], levels: null }]);
});

test("a state is renamed, given parts and levels, and removed", () => {
  const { decide, last } = states([DAMAGED]);
  type("Name", "broken ");
  expect(last()).toEqual([{ ...DAMAGED, name: "broken" }]);
  type("Shared with the base", "strap, lid");
  expect(last()).toEqual([{ ...DAMAGED, shared_parts: ["strap", "lid"] }]);
  type("Its levels, percent of its triangles", "10%, 50, 400, x, 25");
  expect(last()).toEqual([{ ...DAMAGED, levels: [0.5, 0.25, 0.1].map((ratio) => target({ ratio })) }]);
  decide.mockClear();
  type("Name", "  ");
  type("Its own parts", " , ");
  expect(decide, "a state has a name and parts").not.toHaveBeenCalled();
  press("Remove the state damaged");
  expect(last()).toEqual([]);
});

test("what a state was built to stands below it, with the levels that are the base's", () => {
  states([DAMAGED], [{ name: "damaged", fallen_back: 2, levels: crateWith().levels.slice(0, 3) }]);
  expect(screen.getByText(/384 → 192 → 95 tris/).textContent).toBe("384 → 192 → 95 tris · last 2 from the base");
});

const rows = () => screen.getAllByRole("row").map((row) => [...row.children].map((cell) => cell.textContent));

test("each level's figures stand against LOD0, and from the second on against the level above", () => {
  render(<LevelFigures prop={crateWith()} />);
  const [, lod0, lod1, lod2] = rows();
  expect(lod0!.slice(0, 3)).toEqual(["LOD0", "384 100 %", "243"]);
  expect(lod0!.at(-1)).toBe("–");
  expect([lod1![0], lod1![1], lod1![6], lod1![8]]).toEqual(["LOD1", "192 50 %", "14.1 m", "LOD0"]);
  expect(lod2![8]).toBe("LOD0LOD1");
});

test("a level that goes without parts says how many, and which", () => {
  const levels = crateWith().levels.map((level) =>
    level.index === 2 ? { ...level, dropped: ["strap"], vanished: ["lid"] } : level,
  );
  render(<LevelFigures prop={crateWith({ levels })} />);
  expect(rows()[3]![0]).toBe("LOD2−2");
  expect(screen.getByTitle("goes without strap, lid")).toBeTruthy();
});

test("results from before parts could vanish are still shown", () => {
  const levels = crateWith().levels.map((level) => ({
    ...level,
    vanished: undefined,
  })) as unknown as PropDetail["levels"];
  render(<LevelFigures prop={crateWith({ levels })} />);
  expect(rows()[3]![0]).toBe("LOD2");
});

function chart(changes: Parameters<typeof crateWith>[0] = {}) {
  const decide = vi.fn();
  render(<SightChart prop={crateWith(changes)} eye={new EyeStore()} decide={decide} />);
  return { decide };
}

test("a switch is moved by the keyboard, in metres to three digits before the bias", () => {
  const { decide } = chart({ settings: { levels: { switch_bias: 2 } } });
  const handle = screen.getAllByRole("slider").find((one) => /LOD1/.test(one.getAttribute("aria-label")!))!;
  vi.useFakeTimers();
  fireEvent.keyDown(handle, { key: "ArrowRight" });
  fireEvent.keyDown(handle, { key: "ArrowRight" });
  expect(decide, "held keys are one decision").not.toHaveBeenCalled();
  vi.runAllTimers();
  vi.useRealTimers();
  expect(decide).toHaveBeenCalledTimes(1);
  const [, { levels }] = decide.mock.lastCall!;
  // 14.11 m a twentieth further, twice, of which the bias makes half.
  expect(levels[0].switch_distance).toBeCloseTo((14.1147 * 1.05 ** 2) / 2, 1);
  expect(levels.slice(1).map((one: { switch_distance: number | null }) => one.switch_distance)).toEqual([null, null]);
});

test("moved switches go back to where they were proposed, all at once", () => {
  const levels = [target({ ratio: 0.5, switch_distance: 9 }), target({ ratio: 0.25 })];
  const { decide } = chart({ settings: { levels: { levels, cull_distance: 90 } } });
  press("As proposed");
  expect(decide).toHaveBeenLastCalledWith("levels", {
    levels: levels.map((one) => ({ ...one, switch_distance: null })),
    cull_distance: null,
  });
});

test("without a moved switch there is nothing to put back", () => {
  chart();
  expect(screen.queryByRole("button", { name: "As proposed" })).toBeNull();
});

test("the figures take the chart's place", () => {
  chart();
  expect(screen.queryByRole("table")).toBeNull();
  fireEvent.click(screen.getByText("Figures"));
  expect(screen.getByRole("table")).toBeTruthy();
});
