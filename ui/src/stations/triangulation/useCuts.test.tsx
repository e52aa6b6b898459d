import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, renderHook } from "@testing-library/react";
import type { ReactNode } from "react";
import { expect, test, vi } from "vitest";

import { crateWith } from "../../testing/crate";
import { levelOf } from "../../testing/level";
import { grid, surfaceOf } from "../../testing/surface";
import { DIFFERS } from "../../surface/sheet";
import type { SurfaceLevel } from "../../viewport/surfaceLevel";
import { useCuts } from "./useCuts";

/** Two quads side by side, each cut from its first corner. */
const strip = () => levelOf(surfaceOf(grid(2, 1)));

function cuts(level: SurfaceLevel | null, settings: Parameters<typeof crateWith>[0] = {}) {
  const matrix = [1, 0, 0, 10, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
  const prop = crateWith({ ...settings, facts: { placement: { matrix } } });
  const decide = vi.fn();
  const queries = new QueryClient();
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={queries}>{children}</QueryClientProvider>
  );
  const { result } = renderHook(() => useCuts({ prop, level, radius: 2, decide }), { wrapper });
  return { now: () => result.current, decide };
}

/** On the first quad, by its diagonal from (0, 0, 0) to (1, 0, -1). */
const onFirst = { triangle: 0, point: [0.55, 0, -0.45] as [number, number, number] };

test("outlines and diagonals are told apart", () => {
  const { now } = cuts(strip());
  expect(now().lines?.outlines.length, "seven edges around two quads").toBe(7 * 6);
  expect(now().lines?.diagonals.length).toBe(2 * 6);
  expect(now().fan, "no fan is told where the cuts are the engine's").toBeNull();
});

test("the diagonal under the pointer shows as it is and as it would be", () => {
  const { now } = cuts(strip());
  act(() => now().onHover(onFirst));
  const ends = (points: Float32Array) =>
    [[...points.subarray(0, 3)], [...points.subarray(3, 6)]].map((p) => p.map((x) => x + 0)).sort();
  expect(ends(now().aimLines!.now)).toEqual([
    [0, 0, 0],
    [1, 0, -1],
  ]);
  expect(ends(now().aimLines!.turned)).toEqual([
    [0, 0, -1],
    [1, 0, 0],
  ]);
  act(() => now().onHover(null));
  expect(now().aimLines).toBeNull();
});

test("a diagonal that was flipped before and is flipped back leaves no mark of its first flip", () => {
  const flipped = [
    [
      [-10, 0, 0],
      [-9, 0, -1],
    ],
  ] as never;
  const { now, decide } = cuts(strip(), { settings: { triangulation: { flipped_diagonals: flipped } } });
  expect(now().turned).toBe(1);
  act(() => now().onPick(onFirst));
  const [mark, ...others] = decide.mock.lastCall![1].flipped_diagonals;
  expect([...mark].sort()).toEqual([
    [-10, 0, -1],
    [-9, 0, 0],
  ]);
  expect(others).toEqual([]);
});

test("a click flips a diagonal, in the source's units, and the next click keeps it", () => {
  const { now, decide } = cuts(strip());
  act(() => now().onPick(onFirst));
  const [station, { flipped_diagonals: first }] = decide.mock.lastCall!;
  expect(station).toBe("triangulation");
  expect(first).toHaveLength(1);
  // The prop stands ten metres along x from its source.
  expect([...first[0]].sort()).toEqual([
    [-10, 0, -1],
    [-9, 0, 0],
  ]);
  act(() => now().onPick({ triangle: 2, point: [1.55, 0, -0.45] }));
  expect(decide.mock.lastCall![1].flipped_diagonals).toHaveLength(2);
});

test("polygons that an engine would cut otherwise, and those it would break, are counted apart", () => {
  const level = strip();
  const { sheet } = level.surface;
  sheet.cut = Uint8Array.from([DIFFERS, DIFFERS, DIFFERS | 2, DIFFERS | 2]);
  // The fans from the other corner of each quad, as places among the corners of its triangles.
  sheet.fan = Uint32Array.from([1, 2, 5, 1, 5, 0, 7, 8, 11, 7, 11, 6]);
  const { now } = cuts(level);
  expect([now().differing, now().breaking]).toEqual([
    [0, 1],
    [2, 3],
  ]);
  expect(now().lines?.changed.length).toBe(2 * 6);
  expect(now().lines?.fans.length).toBe(2 * 6);
});

test("until the surface is there nothing can be flipped", () => {
  const { now, decide } = cuts(null);
  act(() => now().onHover(onFirst));
  act(() => now().onPick(onFirst));
  expect([now().isReady, now().lines, now().aimLines]).toEqual([false, null, null]);
  expect(decide).not.toHaveBeenCalled();
});
