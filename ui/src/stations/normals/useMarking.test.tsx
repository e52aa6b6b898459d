import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, renderHook } from "@testing-library/react";
import type { ReactNode } from "react";
import { expect, test, vi } from "vitest";

import { crateWith } from "../../testing/crate";
import { levelOf } from "../../testing/level";
import { cube, surfaceOf } from "../../testing/surface";
import type { SurfaceLevel } from "../../viewport/surfaceLevel";
import { useMarking } from "./useMarking";

vi.mock("@react-three/fiber", () => ({ invalidate: () => undefined }));

/** A cube whose edges are all soft, and the hooks that mark it; it is placed twice as large as its source. */
function marking(settings: Parameters<typeof crateWith>[0] = {}, level: SurfaceLevel = levelOf(surfaceOf(cube()))) {
  const matrix = [2, 0, 0, 0, 0, 2, 0, 0, 0, 0, 2, 0, 0, 0, 0, 1];
  const prop = crateWith({
    ...settings,
    facts: { placement: { matrix }, normals: { rule: "angle", angle: 120, hard_cost: 0 } },
  });
  const decide = vi.fn();
  const queries = new QueryClient();
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={queries}>{children}</QueryClientProvider>
  );
  const hook = renderHook(({ angle }) => useMarking({ prop, level, radius: Math.sqrt(3), angle, decide }), {
    wrapper,
    initialProps: { angle: prop.settings.normals.angle },
  });
  return { hook, decide, now: () => hook.result.current, level };
}

/** On the side x = 1 of the cube, near its edge with y = 1. */
const nearEdge = (() => {
  const surface = surfaceOf(cube());
  for (let t = 0; t < surface.triangles; t += 1) {
    const points = [0, 1, 2].map((k) => [...surface.positions.subarray(9 * t + 3 * k, 9 * t + 3 * k + 3)]);
    if (points.every((p) => p[0] === 1) && points.filter((p) => p[1] === 1).length === 2)
      return { triangle: t, point: [1, 0.98, 0] as [number, number, number] };
  }
  throw new Error("the cube has no such side");
})();

test("an edge in aim says what marking it costs in engine vertices, and a click decides it in the source's units", () => {
  const { now, decide } = marking();
  act(() => now().setTool("edge"));
  act(() => now().onHover(nearEdge));
  expect(now().aim?.edges).toHaveLength(1);
  expect(now().aim?.text).toMatch(/^1 edge · [+±−]\d+ engine vertices$/);
  act(() => now().onPick(nearEdge));
  const [station, { hard, soft }] = decide.mock.lastCall!;
  expect([station, hard.length, soft]).toEqual(["normals", 1, []]);
  // Placed twice as large: the corner (1, 1, ±1) of the view is (0.5, 0.5, ±0.5) of the source.
  expect(hard[0].map((end: number[]) => end.map(Math.abs))).toEqual([
    [0.5, 0.5, 0.5],
    [0.5, 0.5, 0.5],
  ]);
  expect(now().aim, "the pointer aims anew").toBeNull();
});

test("clicks that come faster than answers build on each other", () => {
  const { now, decide } = marking();
  act(() => now().setTool("edge"));
  act(() => now().onPick(nearEdge));
  act(() => now().onPick({ triangle: nearEdge.triangle, point: [1, 0.5, 0.98] }));
  expect(decide.mock.lastCall![1].hard.length).toBeGreaterThanOrEqual(1);
  const before = decide.mock.lastCall![1].hard.length;
  act(() => now().setAct("soft"));
  act(() => now().onPick(nearEdge));
  const { hard, soft } = decide.mock.lastCall![1];
  expect([hard.length, soft.length], "the mark changed its kind, and the others stay").toEqual([before - 1, 1]);
  act(() => now().setAct("clear"));
  act(() => now().onPick(nearEdge));
  expect(decide.mock.lastCall![1].soft).toEqual([]);
});

test("a hard edge changes the live normals and what they cost; letting it go brings them back", () => {
  const level = levelOf(surfaceOf(cube()));
  const { now } = marking({}, level);
  const cost = now().cost!;
  act(() => now().sweep("above", "hard"));
  expect(now().hardCount).toBe(12);
  expect(now().cost! - cost, "a cube's eight vertices come apart into three each").toBe(16);
  expect([...level.normals]).toEqual([...level.surface.normals]);
  expect(level.drawn).toBeGreaterThan(1);
  act(() => now().sweep("above", "clear"));
  expect([now().hardCount, now().cost]).toEqual([0, cost]);
  for (const part of level.normals)
    expect(Math.abs(part), "each corner faces away from the middle").toBeCloseTo(3 ** -0.5, 6);
});

test("a patch is marked by the spot it grows from, once for each way of growing", () => {
  const { now, decide } = marking();
  act(() => now().setTool("patch"));
  act(() => now().setAct("soft"));
  act(() => now().onHover(nearEdge));
  expect(now().aim?.triangles?.size, "one side of the cube").toBe(2);
  act(() => now().onPick(nearEdge));
  expect(decide.mock.lastCall![1].patches).toMatchObject([
    { by: "angle", angle: 20, inside: "soft", point: [0.5, 0, 0], facing: [1, 0, 0] },
  ]);
  act(() => now().setAct("hard"));
  act(() => now().onPick(nearEdge));
  expect(decide.mock.lastCall![1].patches).toMatchObject([{ inside: "hard" }]);
  act(() => now().setGrow("shell"));
  act(() => now().onHover(nearEdge));
  expect(now().aim?.triangles?.size).toBe(12);
  act(() => now().onPick(nearEdge));
  expect(decide.mock.lastCall![1].patches.map((patch: { by: string }) => patch.by)).toEqual(["angle", "shell"]);
  act(() => now().setAct("clear"));
  act(() => now().onPick(nearEdge));
  expect(decide.mock.lastCall![1].patches.map((patch: { by: string }) => patch.by)).toEqual(["angle"]);
});

test("the border of a patch is its edges, not its inside", () => {
  const { now } = marking();
  act(() => now().setTool("border"));
  act(() => now().onHover(nearEdge));
  expect([now().aim?.edges.length, now().aim?.triangles]).toEqual([4, null]);
});

test("faces are flipped by face, patch or shell, and a second click takes it back", () => {
  const { now, decide } = marking();
  act(() => now().setTool("flip"));
  act(() => now().onHover(nearEdge));
  expect(now().aim?.text).toBe("flip 2 triangles");
  act(() => now().onPick(nearEdge));
  expect(decide.mock.lastCall).toMatchObject(["cleanup", { flipped: [{ scope: "face", point: [0.5, 0, 0] }] }]);
  act(() => now().setScope("shell"));
  act(() => now().onHover(nearEdge));
  expect(now().aim?.text).toBe("flip 12 triangles");
  act(() => now().onPick(nearEdge));
  expect(decide.mock.lastCall![1].flipped.map((mark: { scope: string }) => mark.scope)).toEqual(["face", "shell"]);
  act(() => now().onPick(nearEdge));
  expect(decide.mock.lastCall![1].flipped.map((mark: { scope: string }) => mark.scope)).toEqual(["face"]);
});

test("the threshold moves what is drawn before it is decided", () => {
  const { now, hook, decide } = marking({ settings: { normals: { angle: 120 } } });
  expect(now().hardCount).toBe(0);
  hook.rerender({ angle: 60 });
  expect(now().hardCount).toBe(12);
  hook.rerender({ angle: 95 });
  expect(now().hardCount).toBe(0);
  expect(decide).not.toHaveBeenCalled();
});

test("moved back to where it was, the threshold leaves the shading that was built", () => {
  const { now, hook, level } = marking({ settings: { normals: { angle: 120 } } });
  const built = level.normals.slice();
  hook.rerender({ angle: 60 });
  hook.rerender({ angle: 95 });
  expect(level.normals).not.toEqual(built);
  hook.rerender({ angle: 120 });
  expect([now().hardCount, level.normals]).toEqual([0, built]);
});

test("without a tool nothing is aimed at, and nothing is marked", () => {
  const { now, decide } = marking();
  act(() => now().onHover(nearEdge));
  act(() => now().onPick(nearEdge));
  expect(now().aim).toBeNull();
  act(() => now().aimSweep("above"));
  expect(now().aim?.edges).toHaveLength(12);
  act(() => now().aimSweep(null));
  expect(now().aim).toBeNull();
  expect(decide).not.toHaveBeenCalled();
});
