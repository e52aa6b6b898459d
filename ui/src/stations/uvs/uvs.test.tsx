import { screen, within } from "@testing-library/react";
import { expect, test } from "vitest";

import { crateWith } from "../../testing/crate";
import { choose, openStation, press, type } from "../../testing/station";
import type { EdgeMark } from "../../viewport/marks";
import { UVS } from ".";
import { OpenUvs } from "./OpenUvs";

const light = {
  made: "islands" as const,
  resolution: 128,
  pixels_per_metre: 47.9,
  levels: [
    { level: 0, made: "first" as const, islands: 6 },
    { level: 1, made: "carried" as const, islands: 6 },
    { level: 2, made: "anew" as const, islands: 9 },
  ],
};

const cells = () => {
  const [, ...rows] = within(screen.getByRole("region", { name: "UV channels in figures" })).getAllByRole("row");
  return rows.map((row) => [...row.children].map((cell) => cell.textContent));
};

test("each channel stands in figures with their units", () => {
  openStation(OpenUvs, crateWith());
  expect(cells()).toEqual([
    [
      "0the source's",
      "3",
      "100 %",
      "67 %",
      "0 %",
      "0",
      "1.015 / 1.09",
      "1\u202f024900 to 1\u202f100",
      "–of 1\u202f024",
      "123.2 m, +24 verts",
    ],
  ]);
});

test("a density of few pixels a metre is not rounded to none", () => {
  const [channel] = crateWith().facts.uvs!.channels;
  const density = { ...channel!.density!, least: 0.0625, median: 0.412, largest: 12.4 };
  openStation(OpenUvs, crateWith({ facts: { uvs: { channels: [{ ...channel!, density }] } } }));
  expect(cells()[0]![7]).toBe("0.4120.0625 to 12");
});

test("where the channel comes from is chosen, and what a choice needs shows with it", () => {
  const { decide } = openStation(OpenUvs, crateWith());
  expect(screen.queryByLabelText("Padding")).toBeNull();
  choose("Channel 0 comes from", "Unwrap");
  expect(decide).toHaveBeenLastCalledWith("uvs", { method: "unwrap" });
  choose("Light map, channel 1", "Make where missing");
  expect(decide).toHaveBeenLastCalledWith("uvs", { light_map: "make" });
});

test("a projection has an axis; what is made has a texture and padding", () => {
  const { decide } = openStation(OpenUvs, crateWith({ settings: { uvs: { method: "cylinder" } } }));
  choose("Axis of the projection", "Z");
  expect(decide).toHaveBeenLastCalledWith("uvs", { axis: "z" });
  type("Texture", "512");
  expect(decide).toHaveBeenLastCalledWith("uvs", { resolution: 512 });
  type("Padding", "8");
  expect(decide).toHaveBeenLastCalledWith("uvs", { padding: 8 });
  press("Hard edges are seams", "checkbox");
  expect(decide).toHaveBeenLastCalledWith("uvs", { hard_edge_seams: true });
});

test("a light map says its size, and how each level has one", () => {
  const { decide } = openStation(
    OpenUvs,
    crateWith({ settings: { uvs: { light_map: "make" } }, facts: { uvs: { light_map: light } } }),
  );
  expect(screen.getByText("128 × 128 px · 47.9 px/m")).toBeTruthy();
  expect(
    screen.getByText("LOD0 laid, 6 islands · LOD1 carried over, 6 islands · LOD2 laid anew, 9 islands"),
  ).toBeTruthy();
  type("Density", "64");
  expect(decide).toHaveBeenLastCalledWith("uvs", { light_map_density: 64 });
});

test("the stop of the line tells the islands", () => {
  expect(UVS.summary(crateWith())).toBe("3 islands");
  expect(UVS.summary(crateWith({ facts: { uvs: { light_map: light } } }))).toBe("3 islands, light map");
  expect(UVS.summary(crateWith({ facts: { uvs: { channels: [] } } }))).toBe("no UVs");
});

test("what is made has a density of its own, turns, and equal islands in one place", () => {
  const { decide } = openStation(OpenUvs, crateWith({ settings: { uvs: { method: "repack", density: 200 } } }));
  type("Density", "320");
  expect(decide).toHaveBeenLastCalledWith("uvs", { density: 320 });
  press("As dense as fits", "checkbox");
  expect(decide).toHaveBeenLastCalledWith("uvs", { density: null });
  press("Stack equal islands", "checkbox");
  expect(decide).toHaveBeenLastCalledWith("uvs", { stack_equal: true });
  choose("Turns of an island", "16");
  expect(decide).toHaveBeenLastCalledWith("uvs", { rotations: 16 });
  expect(screen.queryByLabelText("Hard edges are seams"), "islands that are there are not cut").toBeNull();
});

test("islands are pulled in, and what is painted is carried out around them", () => {
  const { decide } = openStation(OpenUvs, crateWith());
  type("Pull islands in", "2");
  expect(decide).toHaveBeenLastCalledWith("uvs", { inset: 2 });
  type("Fill around islands", "16");
  expect(decide).toHaveBeenLastCalledWith("uvs", { fill: 16 });
});

test("channels are swapped, copied and left out, and come back as they were", () => {
  const facts = { source: { uv_channels: 2 } };
  const { decide } = openStation(OpenUvs, crateWith({ facts }));
  press("Swap channels 0 and 1");
  expect(decide).toHaveBeenLastCalledWith("uvs", { channels: [1, 0] });
  press("Copy channel 0");
  expect(decide).toHaveBeenLastCalledWith("uvs", { channels: [0, 1, 0] });
  press("Leave channel 1 out");
  expect(decide).toHaveBeenLastCalledWith("uvs", { channels: [0] });
});

test("channels in an order of their own are put back", () => {
  const { decide } = openStation(
    OpenUvs,
    crateWith({ facts: { source: { uv_channels: 2 } }, settings: { uvs: { channels: [1, 0] } } }),
  );
  expect(screen.getByText("0 ← the source’s 1")).toBeTruthy();
  press("Swap channels 0 and 1");
  expect(decide).toHaveBeenLastCalledWith("uvs", { channels: null });
  press("As the source has them");
  expect(decide).toHaveBeenLastCalledWith("uvs", { channels: null });
});

test("the channels of levels stand in a line, faults named", () => {
  const level = { channel: 0, flipped_triangles: 0, zero_area_triangles: 0, overlap: 0 };
  const levels = [
    { ...level, level: 1, islands: 3, overlap: 0.0002 },
    { ...level, level: 2, islands: 1, flipped_triangles: 2, overlap: 0.051 },
  ];
  openStation(OpenUvs, crateWith({ facts: { uvs: { levels } } }));
  expect(
    screen.getByText("LOD1 3 islands, < 0.1 % overlapping · LOD2 1 island, 5.1 % overlapping, 2 triangles flipped"),
  ).toBeTruthy();
});

test("marks are counted and cleared", () => {
  const edge: EdgeMark = [
    [0, 0, 0],
    [1, 0, 0],
  ];
  const { decide } = openStation(OpenUvs, crateWith({ settings: { uvs: { method: "unwrap", seams: [edge, edge] } } }));
  expect(screen.getByText("2 seam edges · 0 straight strips · 0 island marks")).toBeTruthy();
  press("Clear all marks");
  expect(decide).toHaveBeenLastCalledWith("uvs", { seams: [], straight: [], weights: [], locked: [] });
});
