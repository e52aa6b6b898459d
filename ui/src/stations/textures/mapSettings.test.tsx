import { fireEvent, render, screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";

import { crateWith } from "../../testing/crate";
import { choose, press } from "../../testing/station";
import { HEIGHT, type MapChoice, UNDECIDED } from "./mapChoices";
import { MapSettings } from "./MapSettings";
import type { TextureRow } from "./words";

const crate = crateWith();
const ROW = { ...crate.facts.textures!.textures[0]!, image: "rust.png", kind: "color", channels: 4, alpha: "blend" };
const NOTHING: MapChoice = { ...UNDECIDED, image: "rust.png" };
const other: MapChoice = { ...NOTHING, image: "wood.png", drop_alpha: true };

/** The settings of a texture of which this much is decided, beside those of another. */
function open(choice: Partial<MapChoice> = {}, row: object = {}) {
  const [decide, onDraft] = [vi.fn(), vi.fn()];
  const maps = Object.keys(choice).length ? [other, { ...NOTHING, ...choice }] : [other];
  const settings = { ...crate.settings.textures, maps };
  render(<MapSettings row={{ ...ROW, ...row } as TextureRow} settings={settings} decide={decide} onDraft={onDraft} />);
  const decided = () => (vi.mocked(decide).mock.lastCall![1] as { maps: MapChoice[] }).maps;
  return { decide, onDraft, decided };
}
const box = (name: string) => screen.queryByRole("checkbox", { name });

test("what a map is and which codec it gets is chosen, and found again", () => {
  const { decided } = open({ kind: "mask" });
  choose("Codec of the texture", "BC4");
  expect(decided()).toEqual([other, { ...NOTHING, kind: "mask", codec: "bc4" }]);
  choose("Kind of the texture", "As found");
  expect(decided(), "a choice that says nothing is none").toEqual([other]);
});

test("each flag is offered where it can mean something", () => {
  open();
  expect(box("Leave alpha out")).toBeTruthy();
  expect(box("Keep one channel")).toBeTruthy();
  expect(box("Turn green over"), "a colour has no green to turn").toBeNull();
  expect(box("Make normals unit length")).toBeNull();
});

test("normals are turned and made unit; they keep all of their channels", () => {
  const { decided } = open({}, { kind: "normal", alpha: "none" });
  expect(box("Keep one channel")).toBeNull();
  expect(box("Leave alpha out")).toBeNull();
  press("Turn green over", "checkbox");
  expect(decided()).toEqual([other, { ...NOTHING, flip_green: true }]);
  press("Make normals unit length", "checkbox");
  expect(decided()).toEqual([other, { ...NOTHING, unit: true }]);
});

test("a map of one channel has no other to leave out", () => {
  open({}, { channels: 1, alpha: "none", kind: "roughness" });
  expect(box("Keep one channel")).toBeNull();
  expect(box("Leave alpha out")).toBeNull();
});

test("alpha and channels are left out, each by itself", () => {
  const { decided } = open({ one_channel: true });
  press("Leave alpha out", "checkbox");
  expect(decided()).toEqual([other, { ...NOTHING, one_channel: true, drop_alpha: true }]);
  press("Keep one channel", "checkbox");
  expect(decided()).toEqual([other]);
});

test("heights become normals with what suits most, and are heights no more when that is taken back", () => {
  const { decided } = open();
  press("A height map: make normals of it", "checkbox");
  expect(decided()).toEqual([other, { ...NOTHING, height: HEIGHT, kind: "normal" }]);
});

test("while a size of detail is set it is drawn, and decided where it is let go", () => {
  const { decide, onDraft, decided } = open({ height: HEIGHT, kind: "normal" });
  const slider = screen.getByRole("slider", { name: "share of detail of 4 px" });
  fireEvent.keyDown(slider, { key: "ArrowLeft" });
  const shares = [1, 1, 0.95, 1, 1, 1];
  expect(onDraft).toHaveBeenLastCalledWith({ ...HEIGHT, shares });
  expect(screen.getByText("95 %")).toBeTruthy();
  fireEvent.keyUp(slider, { key: "ArrowLeft" });
  fireEvent.blur(slider);
  expect(decide).toHaveBeenCalled();
  expect(decided()[1]).toEqual({ ...NOTHING, kind: "normal", height: { ...HEIGHT, shares } });
  press("A height map: make normals of it", "checkbox");
  expect(decided()).toEqual([other]);
});

test("all that was decided of a map goes at once, and nothing of another's", () => {
  const { decided } = open({ kind: "mask", codec: "bc7", unit: true });
  press("As found");
  expect(decided()).toEqual([other]);
});

test("where nothing was decided there is nothing to put back", () => {
  open();
  expect(screen.queryByRole("button", { name: "As found" })).toBeNull();
});
