import { fireEvent, screen, within } from "@testing-library/react";
import { expect, test } from "vitest";

import { crateWith } from "../../testing/crate";
import { choose, openStation, press, type } from "../../testing/station";
import { TEXTURES } from ".";
import { withChoice } from "./mapChoices";
import { draftAddress } from "./useHeightDraft";
import { FIRST, type Packing } from "./PackingEditor";
import { OpenTextures } from "./OpenTextures";
import { shipsAs, type TextureRow } from "./words";

const crate = crateWith();
const [color, normal] = crate.facts.textures!.textures as [TextureRow, TextureRow];
const made = {
  path: "textures/crate_color_1.dds",
  codec: "bc1" as const,
  width: 512,
  height: 512,
  levels: 10,
  bytes: 174_924,
  gpu_bytes: 174_776,
  bits_a_pixel: 4,
  psnr: 38.24,
  ssim: 0.9712,
  angle_mean: null,
  angle_p95: null,
  coverage: null,
  seconds: 0.2,
};

const cells = () => {
  const [, ...rows] = within(screen.getByRole("region", { name: "Textures in figures" })).getAllByRole("row");
  return rows.map((row) => [...row.children].map((cell) => cell.textContent));
};

test("the stop says how many there are and what they cost", () => {
  expect(TEXTURES.summary(crate)).toBe("2 textures, 2.7 MiB");
  expect(TEXTURES.summary(crateWith({ facts: { textures: { textures: [] } } }))).toBe("no textures");
});

test("each texture stands in figures, before and after", () => {
  const facts = {
    textures: [
      { ...color, made },
      { ...normal, made: { ...made, codec: "bc5" as const, angle_mean: 0.41, angle_p95: 1.2 } },
    ],
    gpu_bytes: 524_328,
    source_gpu_bytes: 2_796_200,
    budget_bytes: 1_048_576,
  };
  openStation(OpenTextures, crateWith({ facts: { textures: facts } }));
  expect(cells()).toEqual([
    ["crate_color.png", "colour", "512²", "BC1", "38.2 dB", "248 → 171 KiB", "1.3 → 0.17 MiB"],
    ["crate_normal.png", "normal", "512²", "BC5", "0.41°", "285 → 171 KiB", "1.3 → 0.17 MiB"],
  ]);
  expect(
    screen.getByText(
      "All together 2.7 MiB → 512 KiB (−81 %) on the GPU with mips, of 1.0 MiB that the destination allows.",
    ),
  ).toBeTruthy();
  expect(screen.getByRole("img", { name: /BC1 38.2 dB at 4 bits a pixel, BC3 38.2 dB/ })).toBeTruthy();
});

test("an image that ships changed is not said to ship as it came", () => {
  expect(shipsAs({ ...color, is_changed: true })).toBe("image, changed");
  expect([color, normal].map(shipsAs)).toEqual(["as it came", "as it came"]);
});

test("what ships as it came says so", () => {
  openStation(OpenTextures, crate);
  expect(cells()[0]).toEqual(["crate_color.png", "colour", "512²", "as it came", "–", "248 KiB", "1.3 MiB"]);
});

test("the form of all is chosen, and that of one beside it", () => {
  const { decide } = openStation(OpenTextures, crate);
  choose("Ships as", "GPU textures, DDS");
  expect(decide).toHaveBeenLastCalledWith("textures", { output: "dds" });
  press("Resize to powers of two", "checkbox");
  expect(decide).toHaveBeenLastCalledWith("textures", { sizes: "power-of-two" });
  type("Longest side", "1024");
  expect(decide).toHaveBeenLastCalledWith("textures", { largest: 1024 });
  choose("Codec of the texture", "BC7");
  const choice = {
    image: "crate_color.png",
    kind: null,
    codec: "bc7",
    flip_green: false,
    drop_alpha: false,
    one_channel: false,
    unit: false,
    height: null,
  };
  expect(decide).toHaveBeenLastCalledWith("textures", { maps: [choice] });
});

test("a height map gets a strength and a share of each size of detail", () => {
  const height = { strength: 4, shares: [1, 1, 1, 1, 1, 1], occlusion: false };
  const none = { codec: null, flip_green: false, drop_alpha: false, one_channel: false, unit: false };
  const maps = [{ image: "crate_color.png", kind: "normal" as const, ...none, height }];
  const { decide } = openStation(OpenTextures, crateWith({ settings: { textures: { maps } } }));
  type("Strength", "12");
  expect(decide).toHaveBeenLastCalledWith("textures", { maps: [{ ...maps[0], height: { ...height, strength: 12 } }] });
  expect(screen.getAllByRole("slider", { name: /share of detail of/ })).toHaveLength(6);
  press("Occlusion from it, where there is none", "checkbox");
  expect(decide).toHaveBeenLastCalledWith("textures", {
    maps: [{ ...maps[0], height: { ...height, occlusion: true } }],
  });
});

test("a choice that says nothing is none", () => {
  const [first] = withChoice([], "a.png", { flip_green: true });
  expect(first).toMatchObject({ image: "a.png", flip_green: true, kind: null });
  expect(withChoice([first!], "a.png", { flip_green: false })).toEqual([]);
  expect(withChoice([first!], "b.png", { codec: "bc7" }).map(({ image }) => image)).toEqual(["a.png", "b.png"]);
});

test("a layout is added, its channels are chosen, and what cannot be is said", () => {
  const { decide } = openStation(OpenTextures, crate);
  press("Add");
  expect(decide).toHaveBeenLastCalledWith("textures", { packings: [FIRST] });
});

test("a layout takes channels of other maps, inverted or as a constant", () => {
  const packings = (...layouts: Packing[]) => crateWith({ settings: { textures: { packings: layouts } } });
  const { decide } = openStation(OpenTextures, packings(FIRST, { ...FIRST, name: "Mask" }));
  const layout = within(screen.getByRole("group", { name: "Layout ORM" }));
  expect(screen.getByText("Made once textures ship as DDS or KTX2.")).toBeTruthy();
  press("Add");
  expect(decide).toHaveBeenLastCalledWith("textures", {
    packings: [FIRST, { ...FIRST, name: "Mask" }, { ...FIRST, name: "ORM2" }],
  });
  const others = [{ ...FIRST, name: "Mask" }];
  fireEvent.click(layout.getByRole("checkbox", { name: "invert G" }));
  expect(decide).toHaveBeenLastCalledWith("textures", {
    packings: [{ ...FIRST, g: { ...FIRST.g, invert: true } }, ...others],
  });
  type(layout.getByLabelText("Ending"), "Mask");
  expect(layout.getByRole("alert").textContent).toBe("Another layout has this name.");
  type(layout.getByLabelText("Ending"), "no way");
  expect(layout.getByRole("alert").textContent).toBe("Letters and digits alone, at most 24.");
  fireEvent.click(layout.getByRole("button", { name: "Remove" }));
  expect(decide).toHaveBeenLastCalledWith("textures", { packings: others });
});

test("a constant has a value, and one channel at least is a map's", () => {
  const alone: Packing = {
    ...FIRST,
    g: { kind: null, channel: "r", invert: false, constant: 0.5 },
    b: { kind: null, channel: "r", invert: false, constant: 0 },
  };
  const { decide } = openStation(OpenTextures, crateWith({ settings: { textures: { packings: [alone] } } }));
  type("G is", "0.25");
  expect(decide).toHaveBeenLastCalledWith("textures", { packings: [{ ...alone, g: { ...alone.g, constant: 0.25 } }] });
  choose("R comes from", "a constant");
  expect(screen.getByRole("alert").textContent).toBe("One channel at least comes from a map.");
  choose("A comes from", "colour");
  expect(decide).toHaveBeenLastCalledWith("textures", {
    packings: [{ ...alone, a: { kind: "color", channel: "r", invert: false, constant: 1 } }],
  });
});

test("faults are mended for all textures that have them, in one decision", () => {
  const facts = (...rows: TextureRow[]) => ({
    facts: { textures: { textures: rows, gpu_bytes: 1, source_gpu_bytes: 1, budget_bytes: null } },
  });
  const alpha = { ...color, faults: ["opaque-alpha", "grey-stored-as-color"] };
  const other = { ...color, image: "other.png", faults: ["unused-alpha", "non-power-of-two-texture"] };
  const short = { ...normal, faults: ["normal-map-not-unit"] };
  const { decide } = openStation(OpenTextures, crateWith(facts(alpha, other, short)));
  const repairs = within(screen.getByRole("region", { name: "Repairs" }));
  expect(repairs.getAllByRole("button").map((button) => button.textContent)).toEqual([
    "Leave alpha out",
    "Keep one channel",
    "Resize to powers of two",
    "Make normals unit length",
  ]);
  expect(repairs.getByText("2 textures")).toBeTruthy();
  fireEvent.click(repairs.getByRole("button", { name: "Leave alpha out" }));
  const as_found = { flip_green: false, drop_alpha: false, one_channel: false, unit: false };
  const dropped = { kind: null, codec: null, ...as_found, drop_alpha: true, height: null };
  expect(decide).toHaveBeenLastCalledWith("textures", {
    maps: [
      { ...dropped, image: color.image },
      { ...dropped, image: "other.png" },
    ],
  });
  fireEvent.click(repairs.getByRole("button", { name: "Make normals unit length" }));
  expect(decide).toHaveBeenLastCalledWith("textures", {
    maps: [{ kind: null, codec: null, ...as_found, unit: true, height: null, image: normal.image }],
  });
  fireEvent.click(repairs.getByRole("button", { name: "Resize to powers of two" }));
  expect(decide).toHaveBeenLastCalledWith("textures", { sizes: "power-of-two" });
});

test("nothing is offered where nothing can be mended", () => {
  openStation(OpenTextures, crate);
  expect(screen.queryByRole("region", { name: "Repairs" })).toBeNull();
});

test("heights being set have an address of their own", () => {
  const height = { strength: 6, shares: [1, 0.5], occlusion: false };
  expect(draftAddress(7, "rope a/b.png", height)).toBe(
    "/api/props/7/heights/rope%20a%2Fb.png?strength=6&shares=1&shares=0.5",
  );
});
