import { renderHook } from "@testing-library/react";
import { Mesh, MeshBasicMaterial } from "three";
import { expect, test, vi } from "vitest";

import { modelOf } from "../testing/level";
import type { LoadedModel } from "./model";
import { useBeforeAndAfter, useSourceModel } from "./source";

vi.mock("@react-three/fiber", () => ({ invalidate: () => undefined }));

/** Three parts of one triangle each, as a source of parts is loaded: a level is a part. */
function source(): LoadedModel {
  const triangle = [0, 0, 0, 1, 0, 0, 0, 1, 0];
  const levels = [0, 1, 2].map((number) => ({
    ...modelOf([{ material: number === 2 ? "brass" : "rust", positions: triangle.map((x) => x + number) }]).levels[0]!,
    name: `part_${number}`,
  }));
  return { ...modelOf([{ material: "rust", positions: triangle }]), levels };
}

const loaded = vi.hoisted(() => ({ model: null as unknown }));
vi.mock("./model", async (original) => ({
  ...(await original<object>()),
  useModel: (url: string | null) => ({ model: url ? loaded.model : null }),
}));
const matrix = [2, 0, 0, 10, 0, 2, 0, 0, 0, 0, 2, 0, 0, 0, 0, 1];
const there = { url: "/source.glb", matrix };

test("what stays behind is a ghost, the part in hand is marked, the rest is itself", () => {
  loaded.model = source();
  const { result, rerender } = renderHook(
    ({ ships, chosen }: { ships: boolean[]; chosen: number | null }) => useSourceModel(there, ships, chosen),
    { initialProps: { ships: [true, false, true], chosen: null as number | null } },
  );
  const meshes = () => result.current!.levels[0]!.meshes;
  expect(meshes().map(({ shown }) => shown !== undefined)).toEqual([false, true, false]);
  expect(meshes()[0]!.mesh.material).toBe(meshes()[0]!.own);
  const ghost = meshes()[1]!.mesh.material as MeshBasicMaterial;
  expect([ghost.transparent, ghost.opacity < 0.5]).toEqual([true, true]);
  rerender({ ships: [true, false, true], chosen: 1 });
  expect(meshes()[1]!.mesh.material).not.toBe(ghost);
  rerender({ ships: [true, true, true], chosen: null });
  expect(meshes().every(({ mesh, own }) => mesh.material === own)).toBe(true);
});

test("the source stands where the prop does: its matrix places it", () => {
  loaded.model = source();
  const { result } = renderHook(() => useSourceModel(there, [true, true, true], null));
  expect(result.current!.bounds.min.toArray()).toEqual([10, 0, 0]);
  expect(result.current!.bounds.max.toArray()).toEqual([16, 6, 4]);
});

test("before the source is loaded, or without its place, there is nothing to show", () => {
  loaded.model = null;
  expect(renderHook(() => useSourceModel(there, [], null)).result.current).toBeNull();
  loaded.model = source();
  expect(
    renderHook(() => useSourceModel({ url: "/source.glb", matrix: undefined }, [], null)).result.current,
  ).toBeNull();
});

test("before and after the cleanup are two levels in the same materials, of the prop's own parts alone", () => {
  loaded.model = source();
  const after = modelOf([{ material: "brass", positions: [0, 0, 0, 1, 0, 0, 0, 1, 0] }]);
  const { result } = renderHook(() => useBeforeAndAfter(there, [1, 2], after));
  const [before, last] = result.current!.levels;
  expect(before!.meshes).toHaveLength(2);
  expect(last).toBe(after.levels[0]);
  const [rust, brass] = before!.meshes;
  expect(brass!.mesh.material, "as after, so that only the shape differs").toBe(after.levels[0]!.meshes[0]!.own);
  expect(rust!.mesh.material, "of a material that is gone: its own").toBe(rust!.own);
  expect(brass!.mesh).toBeInstanceOf(Mesh);
});

test("before the prop is built there is nothing to compare", () => {
  loaded.model = source();
  expect(renderHook(() => useBeforeAndAfter(there, [0], null)).result.current).toBeNull();
});
