import { Mesh, MeshStandardMaterial, Texture } from "three";
import { GLTFLoader } from "three/addons/loaders/GLTFLoader.js";
import { expect, test, vi } from "vitest";

import type { SeenProp } from "../../api/client";
import { disposeAsset, loadAsset, middleOf, ownMaterial } from "./loadAsset";

/** A GLB of nodes that all draw one triangle, its corners at 0, x and y = 2; each may lie below another. */
function glb(nodes: { name: string; children?: number[] }[]) {
  const corners = new Float32Array([0, 0, 0, 2, 0, 0, 0, 2, 0]);
  const json = JSON.stringify({
    asset: { version: "2.0" },
    scene: 0,
    scenes: [{ nodes: nodes.map((_, k) => k).filter((k) => !nodes.some(({ children }) => children?.includes(k))) }],
    nodes: nodes.map((node) => ({ ...node, mesh: 0 })),
    meshes: [{ primitives: [{ attributes: { POSITION: 0 }, material: 0 }] }],
    materials: [{ name: "tin" }],
    accessors: [{ bufferView: 0, componentType: 5126, count: 3, type: "VEC3", min: [0, 0, 0], max: [2, 2, 0] }],
    bufferViews: [{ buffer: 0, byteLength: corners.byteLength }],
    buffers: [{ byteLength: corners.byteLength }],
  });
  const text = new TextEncoder().encode(json.padEnd(Math.ceil(json.length / 4) * 4));
  const out = new Uint8Array(28 + text.length + corners.byteLength);
  const words = new DataView(out.buffer);
  [0x46546c67, 2, out.length, text.length, 0x4e4f534a].forEach((word, k) => words.setUint32(4 * k, word, true));
  out.set(text, 20);
  words.setUint32(20 + text.length, corners.byteLength, true);
  words.setUint32(24 + text.length, 0x004e4942, true);
  out.set(new Uint8Array(corners.buffer), 28 + text.length);
  return out;
}

const seen = {
  levels: [
    { name: "crate.v2_LOD0", number: 0 },
    { name: "crate.v2_LOD1", number: 1 },
  ],
  proxies: [{ name: "crate.v2_proxy" }, { name: "not there" }],
} as unknown as SeenProp;

async function load() {
  const file = glb([
    { name: "crate.v2_LOD0", children: [1, 2] },
    { name: "crate.v2_LOD1" },
    { name: "crate.v2_proxy" },
  ]);
  // The loader's own reading of addresses takes bytes for a document in this stand-in for a page.
  vi.spyOn(GLTFLoader.prototype, "loadAsync").mockImplementation(function (this: GLTFLoader) {
    return this.parseAsync(file.buffer, "");
  });
  return loadAsset("crate.glb", seen);
}

test("levels and proxies are found by the names in the file and stand apart, though one lay below the other", async () => {
  const { levels, proxies, sphere } = await load();
  expect(levels.map(({ object, number }) => [object.userData.name, number])).toEqual([
    ["crate.v2_LOD0", 0],
    ["crate.v2_LOD1", 1],
  ]);
  expect(levels.map(({ object }) => [object.parent, object.children.length])).toEqual([
    [null, 0],
    [null, 0],
  ]);
  expect(proxies).toHaveLength(1);
  expect(sphere.center.toArray()).toEqual([1, 1, 0]);
});

test("the middle of an asset turns about its pivot with it", async () => {
  const asset = await load();
  const middle = middleOf(asset, { x: 10, z: 20, turn: 90 });
  expect(middle.toArray().map((x) => Number(x.toFixed(9)))).toEqual([10, 1, 19]);
});

test("what is given back is an asset's own, though its levels are told apart by colour at the moment", async () => {
  const asset = await load();
  const mesh = asset.levels[0]!.object as Mesh;
  const own = ownMaterial(mesh) as MeshStandardMaterial;
  own.map = new Texture();
  const [color, texture, shared] = [vi.spyOn(own, "dispose"), vi.spyOn(own.map, "dispose"), new MeshStandardMaterial()];
  const kept = vi.spyOn(shared, "dispose");
  mesh.material = shared;
  expect(ownMaterial(mesh)).toBe(own);
  disposeAsset(asset);
  expect([color, texture, kept].map(({ mock }) => mock.calls.length > 0)).toEqual([true, true, false]);
});
