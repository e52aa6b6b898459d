import { BufferGeometry, Mesh, type MeshLambertMaterial } from "three";
import { expect, test } from "vitest";

import type { Descent } from "../surface/descent";
import { modelOf } from "../testing/level";
import { grid, surfaceOf } from "../testing/surface";
import { makeDescentLevel } from "./descentLevel";
import { normalLines } from "./normalLines";
import { makeFanLevel, makeSurfaceLevel } from "./surfaceLevel";

const strip = surfaceOf(grid(2, 1));
/** The strip as a viewer would load it: its first quad of rust by an index, its second of brass without. */
const loaded = () =>
  modelOf([
    {
      material: "rust",
      positions: [0, 0, 0, 1, 0, 0, 1, 0, -1, 0, 0, -1],
      index: [0, 1, 2, 0, 2, 3],
      uv: [0, 0, 1, 0, 1, 1, 0, 1],
    },
    { material: "brass", positions: [...strip.positions.subarray(18)] },
  ]);
/** Without the sign of zero. */
const plain = (x: number) => x + 0;
const values = (geometry: BufferGeometry, name: string) => [...geometry.getAttribute(name).array];

test("a model is taken apart into the corners that its sheet names, with its materials", () => {
  const { surface, level } = makeSurfaceLevel(loaded(), strip.sheet);
  expect([...surface.positions].map(plain)).toEqual([...strip.positions].map(plain));
  expect([...surface.material]).toEqual([0, 0, 1, 1]);
  expect(level.meshes.map(({ mesh }) => mesh.userData.first)).toEqual([0, 2]);
  expect(values(level.meshes[0]!.mesh.geometry, "uv")).toEqual([0, 0, 1, 0, 1, 1, 0, 0, 1, 1, 0, 1]);
});

test("its normals can be changed in place, and are sent when that is said", () => {
  const made = makeSurfaceLevel(loaded(), strip.sheet);
  const normal = made.level.meshes[1]!.mesh.geometry.getAttribute("normal");
  made.normals.set([1, 0, 0], 18);
  expect([normal.getX(0), normal.getY(0)]).toEqual([1, 0]);
  const version = "version" in normal ? normal.version : -1;
  made.update();
  expect("version" in normal ? normal.version : -1).toBe(version + 1);
  expect([...made.surface.normals.subarray(18, 21)], "what ships stays as it was").toEqual([0, 1, 0]);
});

test("a sheet of another mesh is refused", () => {
  expect(() => makeSurfaceLevel(loaded(), { ...strip.sheet, triangles: 3 })).toThrow("do not belong together");
  expect(() => makeSurfaceLevel({ ...loaded(), levels: [] }, strip.sheet)).toThrow("no level");
});

test("an engine's fan draws the same corners in its own triangles", () => {
  const made = makeSurfaceLevel(loaded(), strip.sheet);
  expect(makeFanLevel(made), "none where the cut is the engine's").toBeNull();
  const fan = Uint32Array.from([1, 2, 5, 1, 5, 0, 6, 7, 8, 9, 10, 11]);
  const level = makeFanLevel({ ...made, surface: { ...made.surface, sheet: { ...strip.sheet, fan } } })!;
  expect(values(level.meshes[0]!.mesh.geometry, "position").slice(0, 9)).toEqual([1, 0, 0, 1, 0, -1, 0, 0, -1]);
  expect(values(level.meshes[0]!.mesh.geometry, "uv").slice(0, 6)).toEqual([1, 0, 1, 1, 0, 1]);
});

test("normals are drawn as lines of one length, from corners or from the middles of faces", () => {
  const level = loaded().levels[0]!;
  expect(normalLines(level, "off", 1)).toHaveLength(0);
  const corners = normalLines(level, "corner", 0.25);
  expect(corners).toHaveLength(12 * 6);
  const faces = normalLines(level, "face", 0.25);
  expect(faces).toHaveLength(4 * 6);
  for (const lines of [corners, faces])
    for (let at = 0; at < lines.length; at += 6) {
      const [x, y, z, u, v, w] = lines.subarray(at, at + 6);
      expect([u! - x!, v! - y!, w! - z!].map((d) => Math.round(1e6 * d) / 1e6 + 0)).toEqual([0, 0.25, 0]);
    }
});

/** Two triangles over a quad; after one step its last vertex has gone into its first, and one triangle with it. */
const descent = (): Descent => ({
  triangles: 2,
  groups: [{ material: "rust", first: 0, last: 2 }],
  parent: Int32Array.from([-1, -1, -1, 0]),
  goes: Uint32Array.from([2, 2, 2, 1]),
  nodesAt: Uint32Array.from([4, 3]),
  trianglesAt: Uint32Array.from([2, 1]),
  verticesAt: Uint32Array.from([4, 3]),
  largestAt: Float32Array.from([0, 0.5]),
  distance: Float32Array.from([0.5]),
  corner: Uint32Array.from([0, 1, 2, 0, 2, 3]),
  died: Uint32Array.from([2, 0]),
  starts: Uint32Array.from([0, 0]),
  place: Float32Array.from([0, 0, 0, 1, 0, 0, 1, 0, -1, 0, 0, -1]),
  normal: null,
  uv: null,
});

test("a descent draws as many triangles as are left at a step", () => {
  const made = makeDescentLevel(descent(), loaded());
  const { mesh } = made.level.meshes[0]!;
  expect(mesh).toBeInstanceOf(Mesh);
  expect(mesh.geometry.drawRange.count).toBe(6);
  made.show(1);
  expect(mesh.geometry.drawRange.count).toBe(3);
  expect([...mesh.geometry.getIndex()!.array.slice(0, 3)]).toEqual([0, 1, 2]);
  made.show(0);
  expect([...mesh.geometry.getIndex()!.array]).toEqual([0, 1, 2, 0, 2, 3]);
});

test("what is faceted is drawn flat, in its materials and in heat; what is not has its own normals", () => {
  const flat = makeDescentLevel(descent(), loaded()).level.meshes[0]!;
  expect((flat.own as MeshLambertMaterial).flatShading).toBe(true);
  expect(flat.mesh.geometry.getAttribute("normal")).toBeUndefined();
  const normal = Float32Array.from([0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0]);
  const made = makeDescentLevel({ ...descent(), normal }, loaded());
  const smooth = made.level.meshes[0]!;
  expect((smooth.own as MeshLambertMaterial).flatShading).toBe(false);
  expect(smooth.mesh.geometry.getAttribute("normal").array).toBe(normal);
  made.setHeat(true);
  expect((smooth.shown as MeshLambertMaterial).flatShading).toBe(false);
});

test("heat takes the place of the materials, full where the surface is furthest off", () => {
  const made = makeDescentLevel(descent(), loaded());
  const [entry] = made.level.meshes;
  expect(entry!.shown).toBeUndefined();
  made.show(1);
  made.setHeat(true);
  expect(entry!.shown).toBeDefined();
  const colors = entry!.mesh.geometry.getAttribute("color");
  const at = (v: number) => [0, 1, 2].map((k) => Math.round(255 * colors.getComponent(v, k)));
  expect(at(0), "the vertex that took the other in").toEqual([0xbd, 0x31, 0x90]);
  expect(at(1)).toEqual([0xf3, 0xf5, 0xf3]);
  made.setHeat(false);
  expect(entry!.shown).toBeUndefined();
});
