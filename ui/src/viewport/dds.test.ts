import { CompressedTexture, RED_GREEN_RGTC2_Format, RGBA_BPTC_Format } from "three";
import { expect, test } from "vitest";

import { readDds, textureOf } from "./dds";
import { decodedAddress } from "./useGpuTexture";

/** A DDS of 8 × 4 with two mips. */
function dds(fourcc: string, bytes: number, dxgi?: number): ArrayBuffer {
  const head = dxgi === undefined ? 128 : 148;
  const data = new ArrayBuffer(head + bytes);
  const words = new DataView(data);
  words.setUint32(0, 0x20534444, true);
  words.setUint32(12, 4, true);
  words.setUint32(16, 8, true);
  words.setUint32(28, 2, true);
  [...fourcc].forEach((letter, k) => words.setUint8(84 + k, letter.charCodeAt(0)));
  if (dxgi !== undefined) words.setUint32(128, dxgi, true);
  new Uint8Array(data, head).forEach((_, k, all) => (all[k] = k));
  return data;
}

test("blocks lie level by level behind either header", () => {
  const old = readDds(dds("ATI2", 48));
  expect([old.codec, old.width, old.height]).toEqual(["bc5", 8, 4]);
  expect(old.levels.map(({ data, width, height }) => [data.length, width, height])).toEqual([
    [32, 8, 4],
    [16, 4, 2],
  ]);
  expect([...(old.levels[1]!.data as Uint8Array)].slice(0, 2)).toEqual([32, 33]);
  expect(readDds(dds("DX10", 48, 99)).codec).toBe("bc7");
  expect(readDds(dds("DX10", 160, 28)).levels[0]!.data).toHaveLength(128);
});

test("what is no such file, or cut off, is refused", () => {
  expect(() => readDds(new ArrayBuffer(20))).toThrow("no DDS");
  expect(() => readDds(dds("ATI2", 40))).toThrow("cut off");
  expect(() => readDds(dds("DX10", 48, 2))).toThrow("not shown");
});

test("the GPU is given the blocks themselves, as plain numbers", () => {
  const texture = textureOf(readDds(dds("ATI2", 48)));
  expect(texture).toBeInstanceOf(CompressedTexture);
  expect([texture.format, texture.colorSpace, texture.mipmaps.length]).toEqual([RED_GREEN_RGTC2_Format, "", 2]);
  expect(textureOf(readDds(dds("DX10", 48, 98))).format).toBe(RGBA_BPTC_Format);
  expect(decodedAddress("/api/files/ab12.bin")).toBe("/api/textures/ab12.png");
});
