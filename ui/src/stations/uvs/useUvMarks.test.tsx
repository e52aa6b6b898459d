import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, renderHook } from "@testing-library/react";
import type { ReactNode } from "react";
import { expect, test, vi } from "vitest";

import { findIslands } from "../../surface/uvs";
import { crateWith } from "../../testing/crate";
import { levelOf } from "../../testing/level";
import { grid, surfaceOf } from "../../testing/surface";
import { useUvMarks } from "./useUvMarks";

const surface = surfaceOf(grid(4, 4));
const LEVEL = levelOf(surface);
/** Two islands: the first row of quads lies elsewhere on the sheet. */
const CHANNEL = findIslands(
  Float32Array.from({ length: 2 * 3 * surface.triangles }, (_, i) => {
    const corner = Math.floor(i / 2);
    const first = Math.floor(corner / 6) < 4;
    return surface.positions[3 * corner + (i % 2 ? 2 : 0)]! / 8 + (first ? 5 : 0);
  }),
  surface.positions,
  surface.sheet.twin,
);

function marks(settings: Parameters<typeof crateWith>[0] = {}) {
  const decide = vi.fn();
  const queries = new QueryClient();
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={queries}>{children}</QueryClientProvider>
  );
  const hook = renderHook(({ prop }) => useUvMarks({ prop, level: LEVEL, channel: CHANNEL, radius: 3, decide }), {
    wrapper,
    initialProps: { prop: crateWith(settings) },
  });
  return { decide, now: () => hook.result.current };
}

/** A place beside an inner edge of the grid. */
const hit = (() => {
  const c = surface.sheet.twin.findIndex(
    (d, at) => d >= 0 && surface.sheet.polygon[Math.floor(d / 3)] !== surface.sheet.polygon[Math.floor(at / 3)],
  );
  const at = (k: number) => [0, 1, 2].map((axis) => surface.positions[3 * k + axis]!);
  const [a, b] = [at(c), at(c - (c % 3) + (((c % 3) + 1) % 3))];
  return { triangle: Math.floor(c / 3), point: a.map((x, k) => (x + b[k]!) / 2) as [number, number, number] };
})();

test("a click marks a seam, and unwraps where nothing was made; the same click takes it away", () => {
  const { now, decide } = marks();
  act(() => now().setTool("seam"));
  act(() => now().onHover(hit));
  expect(now().aimed).toBe(1);
  act(() => now().onPick(hit));
  const [station, first] = decide.mock.lastCall!;
  expect([station, first.method, first.seams.length]).toEqual(["uvs", "unwrap", 1]);
  act(() => now().onPick(hit));
  expect(decide.mock.lastCall![1]).toEqual({ seams: [] });
});

test("a loop of seams is marked at once, and a strip by one edge across it", () => {
  const { now, decide } = marks({ settings: { uvs: { method: "unwrap" } } });
  act(() => now().setTool("loop"));
  act(() => now().onPick(hit));
  expect(decide.mock.lastCall![1].seams).toHaveLength(4);
  expect(decide.mock.lastCall![1]).not.toHaveProperty("method");
  act(() => now().setTool("straight"));
  act(() => now().onPick(hit));
  expect(decide.mock.lastCall![1].straight).toHaveLength(1);
});

test("an island gets its density and stays where it is, until that is taken back", () => {
  const { now, decide } = marks();
  expect([now().island(0).weight, now().island(0).isLocked]).toEqual([1, false]);
  act(() => now().island(0).setWeight(2));
  const asked = decide.mock.lastCall![1];
  expect([asked.method, asked.weights.length, asked.weights[0].weight]).toEqual(["repack", 1, 2]);
  act(() => now().island(1).setLocked(true));
  const locked = decide.mock.lastCall![1].locked;
  expect(locked).toHaveLength(1);
  const there = marks({ settings: { uvs: { method: "repack", weights: asked.weights, locked } } });
  expect([0, 1].map((island) => there.now().island(island).weight)).toEqual([2, 1]);
  expect([0, 1].map((island) => there.now().island(island).isLocked)).toEqual([false, true]);
  act(() => there.now().island(0).setWeight(1));
  expect(there.decide.mock.lastCall![1]).toEqual({ weights: [] });
  act(() => there.now().island(1).setLocked(false));
  expect(there.decide.mock.lastCall![1]).toEqual({ locked: [] });
});

test("marks are drawn where they lie", () => {
  const { now, decide } = marks();
  act(() => now().setTool("seam"));
  act(() => now().onPick(hit));
  const drawn = marks({ settings: { uvs: { seams: decide.mock.lastCall![1].seams } } }).now().drawn;
  expect([drawn.seams.length, drawn.straight.length]).toEqual([6, 0]);
  const ends = [drawn.seams.subarray(0, 3), drawn.seams.subarray(3, 6)];
  expect(ends[0]!.map((x, k) => (x + ends[1]![k]!) / 2)).toEqual(Float32Array.from(hit.point));
});
