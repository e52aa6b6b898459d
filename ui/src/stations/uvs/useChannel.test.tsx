import { renderHook } from "@testing-library/react";
import { BufferAttribute, type BufferGeometry } from "three";
import { expect, test } from "vitest";

import type { Sheet } from "../../surface/sheet";
import { modelOf } from "../../testing/level";
import { makeSurfaceLevel } from "../../viewport/surfaceLevel";
import { useChannel } from "./useChannel";

/** Two triangles that share a side, each of another material: one square of the sheet between them, or two. */
function square({ isCut = false, second = true } = {}) {
  const shift = isCut ? 0.5 : 0;
  const model = modelOf([
    { material: "rust", positions: [0, 0, 0, 1, 0, 0, 1, 1, 0], uv: [0, 1, 1, 1, 1, 0] },
    {
      material: "wood",
      positions: [0, 0, 0, 1, 1, 0, 0, 1, 0],
      ...(second ? { uv: [0 + shift, 1, 1 + shift, 0, 0 + shift, 0] } : {}),
    },
  ]);
  const sheet: Sheet = {
    triangles: 2,
    vertex: Uint32Array.from([0, 1, 2, 0, 2, 3]),
    attribute: Uint32Array.from([0, 1, 2, 0, 2, 3]),
    twin: Int32Array.from([-1, -1, 3, 2, -1, -1]),
    edge: new Uint8Array(6),
    polygon: Uint32Array.from([0, 1]),
    part: new Uint32Array(2),
    flat: new Float32Array(2).fill(1),
    fan: null,
    cut: null,
  };
  return { model, level: makeSurfaceLevel(model, sheet) };
}

const channelOf = (level: ReturnType<typeof square>["level"] | null, channel: number) =>
  renderHook(() => useChannel(level, channel)).result.current;

test("a channel goes on from one mesh to the next, where they meet on the sheet", () => {
  const found = channelOf(square().level, 0);
  expect([...found!.uvs]).toEqual([0, 1, 1, 1, 1, 0, 0, 1, 1, 0, 0, 0]);
  expect(found!.count).toBe(1);
  expect(found!.rim).toHaveLength(4);
});

test("what lies apart on the sheet is another island", () => {
  const found = channelOf(square({ isCut: true }).level, 0);
  expect([found!.count, ...found!.island]).toEqual([2, 0, 1]);
  expect(found!.rim).toHaveLength(6);
});

test("a channel that one of the meshes lacks is none", () => {
  expect(channelOf(square({ second: false }).level, 0)).toBeNull();
  expect(channelOf(square().level, 1)).toBeNull();
  expect(channelOf(square().level, 7), "there are no more than four").toBeNull();
  expect(channelOf(null, 0), "until the surface is there").toBeNull();
});

test("the second channel is that of light maps, and not the first", () => {
  const { level } = square();
  for (const { mesh } of level.level.meshes)
    (mesh.geometry as BufferGeometry).setAttribute("uv1", new BufferAttribute(new Float32Array(6).fill(0.25), 2));
  expect([...channelOf(level, 1)!.uvs].every((one) => one === 0.25)).toBe(true);
  expect(channelOf(level, 0)!.uvs[1]).toBe(1);
});
