import { act, renderHook } from "@testing-library/react";
import { MeshBasicMaterial } from "three";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

import { crateWith } from "../../testing/crate";
import { modelOf } from "../../testing/level";
import { askedBy, Refusal, serve } from "../../testing/server";
import type { LoadedModel } from "../../viewport/model";
import { dressed, REST, usePreview } from "./usePreview";

const TRIANGLE = [0, 0, 0, 1, 0, 0, 0, 1, 0];

const prop = crateWith();
const path = `/api/props/${prop.id}/preview`;
const facts = { ...prop.levels[1]!, triangles: 40, vertices: 33 };
const model = modelOf([
  { material: "oak", positions: TRIANGLE },
  { material: "brass", positions: TRIANGLE },
]);

const counts = () => askedBy("POST").map((one) => one.path);
const pass = (ms: number) => act(() => vi.advanceTimersByTimeAsync(ms));

function resting(triangles: number | null) {
  return renderHook(({ count, of }) => usePreview(of, count), { initialProps: { count: triangles, of: prop } });
}

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

test("nothing is asked while the slider moves, and one question once it rests", async () => {
  serve({ [`POST ${path}`]: { state: "ready", model: "/api/files/forty.glb", level: facts } });
  const { rerender, result } = resting(90);
  for (const count of [80, 70, 60, 40]) {
    await pass(REST - 50);
    rerender({ count, of: prop });
  }
  expect(counts()).toEqual([]);
  expect(result.current.isMaking).toBe(true);
  await pass(REST + 20);
  expect(counts()).toEqual([path]);
  expect(result.current).toMatchObject({ facts, isMaking: false });
  await pass(5000);
  expect(counts(), "it is there: there is nothing left to ask").toEqual([path]);
});

test("it asks again while the level is being made, and no more once the slider has moved on", async () => {
  let state = "working";
  serve({
    [`POST ${path}`]: () => (state === "working" ? { state } : { state, model: "/api/files/forty.glb", level: facts }),
  });
  const { rerender, result } = resting(40);
  await pass(REST + 1000);
  expect(counts().length).toBeGreaterThan(2);
  expect(result.current).toMatchObject({ url: null, facts: null, isMaking: true });
  state = "ready";
  await pass(500);
  expect(result.current.facts).toEqual(facts);
  expect(result.current.url).toBe("/api/files/forty.glb");
  state = "working";
  rerender({ count: 30, of: prop });
  expect(result.current, "what was there is another level's").toMatchObject({ url: null, facts: null });
  await pass(REST + 20);
  const asked = counts().length;
  rerender({ count: null as unknown as number, of: prop });
  await pass(3000);
  expect(counts()).toHaveLength(asked);
  expect(result.current.isMaking).toBe(false);
});

test("a level that cannot be made leaves what is drawn, and is not asked for over and over", async () => {
  serve({
    [`POST ${path}`]: () => {
      throw new Refusal(404, "this prop is not on the board any more");
    },
  });
  const { result, rerender } = resting(40);
  await pass(REST + 3000);
  expect(counts()).toHaveLength(1);
  expect(result.current).toEqual({ url: null, facts: null, isMaking: false });
  serve({ [`POST ${path}`]: { state: "failed", error: "a level of so many triangles is not worth having" } });
  rerender({ count: 191, of: prop });
  await pass(REST + 3000);
  expect(counts()).toHaveLength(2);
  expect(result.current).toEqual({ url: null, facts: null, isMaking: false });
});

test("when the prop was built of other settings its level is asked for anew", async () => {
  serve({ [`POST ${path}`]: { state: "ready", model: "/api/files/forty.glb", level: facts } });
  const { rerender, result } = resting(40);
  await pass(REST + 20);
  expect(result.current.facts).toEqual(facts);
  rerender({ count: 40, of: crateWith({ model: "/api/files/other.glb" }) });
  expect(result.current.facts).toBeNull();
  await pass(REST + 20);
  expect(counts()).toHaveLength(2);
});

test("its shape wears the materials of LOD0 by their names; one that LOD0 lacks keeps its own", () => {
  const shape = modelOf([
    { material: "brass", positions: TRIANGLE },
    { material: "tar", positions: TRIANGLE },
  ]).levels[0]!;
  const [brass, tar] = dressed(shape, model).meshes;
  expect(brass!.own).toBe(model.levels[0]!.meshes[1]!.own);
  expect(brass!.flat).toBe(model.levels[0]!.meshes[1]!.flat);
  expect(brass!.mesh, "the shape is its own").toBe(shape.meshes[0]!.mesh);
  expect(tar!.own).toBe(shape.meshes[1]!.own);
  const many = { ...shape.meshes[0]!, own: [new MeshBasicMaterial({ name: "oak" })] };
  expect(dressed({ ...shape, meshes: [many] }, model).meshes[0]!.own).toBe(model.levels[0]!.meshes[0]!.own);
  const bare: LoadedModel = { ...model, levels: [] };
  expect(dressed(shape, bare).meshes.map(({ own }) => own)).toEqual(shape.meshes.map(({ own }) => own));
});
