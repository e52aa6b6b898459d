import { act, fireEvent, render, renderHook, screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";

import type { Descent } from "../../surface/descent";
import { crateWith } from "../../testing/crate";
import { EyeStore } from "../../viewport/viewState";
import { target } from "./targets";
import { shareOf, stepAt, stepOfLimit } from "./useDescent";
import { useSeenState } from "./useSeenState";
import { useWalk } from "./useWalk";
import { WalkBar } from "./WalkBar";
import { withLevel } from "./withLevel";

/** Levels that begin at 0, 10, 30 and 90 m; beyond 300 m nothing is drawn. */
const walked = crateWith({
  levels: crateWith().levels.map((level, i) => ({ ...level, distance: [0, 10, 30, 90][i]! })),
  facts: { levels: { cull_distance: 300, radius: 0.7 } },
});

function walk(prop = walked) {
  const eye = new EyeStore();
  const { result } = renderHook(() => useWalk({ prop, eye, radius: 0.7 }));
  return { eye, now: () => result.current, go: (distance: number) => act(() => eye.set({ distance, bearing: 0 })) };
}

test("the level that is drawn follows the viewer, and the switch that was passed is known", () => {
  const { now, go } = walk();
  act(() => now().start());
  expect(now().goal?.distance, "it begins near").toBeCloseTo(now().near, 6);
  go(5);
  expect([now().drawn, now().passed]).toEqual([0, null]);
  go(31);
  expect([now().drawn, now().passed]).toEqual([2, 2]);
  go(12);
  expect([now().drawn, now().passed], "back over the second switch").toEqual([1, 2]);
  go(400);
  expect([now().drawn, now().passed]).toEqual([-1, null]);
});

test("it goes from outside the prop to beyond where it is not drawn", () => {
  const { now } = walk();
  expect(now().near).toBeGreaterThan(0.7);
  expect(now().near).toBeLessThan(10);
  expect(now().far).toBeGreaterThan(300);
});

test("a switch is looked at from where it is, and the walk stands still for it", () => {
  const { now } = walk();
  act(() => now().start());
  act(() => now().play(true));
  expect(now().isPlaying).toBe(true);
  act(() => now().setSeen("blink"));
  expect([now().isPlaying, now().at, now().goal?.distance]).toEqual([false, 1, 10]);
  act(() => now().setAt(3));
  expect(now().goal?.distance).toBe(90);
  act(() => now().stop());
  expect([now().isOn, now().seen]).toEqual([false, "off"]);
});

test("a chain that is built with fewer levels shows the switch that it has, or none", () => {
  const cut = (levels: number) => ({ ...walked, levels: walked.levels.slice(0, levels) });
  const eye = new EyeStore();
  const { result, rerender } = renderHook(({ prop }) => useWalk({ prop, eye, radius: 0.7 }), {
    initialProps: { prop: walked },
  });
  act(() => result.current.setSeen("blink"));
  act(() => result.current.setAt(3));
  rerender({ prop: cut(2) });
  expect([result.current.seen, result.current.at]).toEqual(["blink", 1]);
  rerender({ prop: cut(1) });
  expect(result.current.seen).toBe("off");
});

test("a prop that was not built cannot be walked away from", () => {
  const { now } = walk(crateWith({ levels: [] }));
  act(() => now().start());
  expect([now().isOn, now().switches]).toEqual([false, null]);
});

function bar(more: object, distance = 31) {
  const { result } = renderHook(() => useWalk({ prop: walked, eye: new EyeStore(), radius: 0.7 }));
  const eye = new EyeStore();
  eye.set({ distance, bearing: 0 });
  const spies = { play: vi.fn(), goTo: vi.fn(), stop: vi.fn(), setEnlarged: vi.fn() };
  render(<WalkBar walk={{ ...result.current, ...spies, ...more }} eye={eye} blinksOther={false} />);
  return spies;
}

test("the reading says how far, which level, and what the last switch changed", () => {
  bar({ drawn: 2, passed: 2 });
  expect(screen.getByRole("status").textContent).toMatch(
    /^31 m · LOD2 · 95 tris last switch to LOD2: \d+(\.\d+)? px changed$/,
  );
});

test("beyond the last switch it says that nothing is drawn", () => {
  bar({ drawn: -1, passed: null }, 400);
  expect(screen.getByRole("status").textContent).toBe("400 m · not drawn ");
});

test("the slider goes by the logarithm of the distance and stops the walk", () => {
  const { goTo, play } = bar({ near: 1, far: 100 });
  fireEvent.change(screen.getByRole("slider"), { target: { value: "500" } });
  expect(goTo.mock.lastCall![0]).toBeCloseTo(10, 9);
  expect(play).toHaveBeenLastCalledWith(false);
});

test("two pictures of a switch are named by their levels", () => {
  bar({ seen: "difference", at: 3 });
  expect(screen.getByRole("status").textContent).toMatch(
    /LOD2 against LOD3 .* shading at its switch 90 m up to .* change/,
  );
  expect(screen.getByRole("combobox", { name: "Switch that is looked at" }).textContent).toContain("LOD2 → LOD3");
});

const descent = {
  trianglesAt: Uint32Array.from([1000, 800, 600, 400, 200, 100, 10]),
  verticesAt: Uint32Array.from([600, 500, 380, 260, 140, 70, 12]),
  largestAt: Float32Array.from([0, 0.001, 0.002, 0.002, 0.008, 0.02, 0.5]),
} as Descent;

test.each([
  ["ratio", 0.4, 3],
  ["ratio", 0.39, 4],
  ["triangles", 600, 2],
  ["vertices", 260, 3],
  ["vertices", 1, 6],
  // The last step that is within, never one beyond.
  ["tolerance_mm", 2.5, 3],
  ["tolerance_mm", 0.5, 0],
  ["tolerance", 0.41, 4],
  ["tolerance_mm", 900, 6],
] as const)("a limit of %s %f stops at step %i", (limit, value, step) => {
  expect(stepOfLimit(descent, limit, value, 2)).toBe(step);
});

test("the slider's places and its steps belong together, from one end to the other", () => {
  expect([stepAt(descent, 0), stepAt(descent, 1), stepAt(descent, 2)]).toEqual([0, 6, 6]);
  expect([shareOf(descent, 1000), shareOf(descent, 100), shareOf(descent, 10), shareOf(descent, 1)]).toEqual([
    0, 0.5, 1, 1,
  ]);
  for (const [step, triangles] of descent.trianglesAt.entries())
    expect(stepAt(descent, shareOf(descent, triangles))).toBe(step);
});

test("a level of the slider takes its place in the chain, whatever the others are stopped by", () => {
  const ratios = (prop: ReturnType<typeof crateWith>, triangles: number) =>
    withLevel(prop, triangles).map((one) => one.ratio ?? one.triangles ?? one.tolerance_mm);
  expect(ratios(crateWith(), 130)).toEqual([0.5, 0.33854, 0.25, 0.1]);
  expect(ratios(crateWith(), 4)).toEqual([0.5, 0.25, 0.1, 0.01042]);
  const levels = [target({ tolerance_mm: 2 }), target({ triangles: 95 })];
  expect(ratios(crateWith({ settings: { levels: { levels } } }), 150), "built to 192 and 95").toEqual([2, 0.39063, 95]);
  const full = Array.from({ length: 7 }, (_, i) => target({ ratio: 0.9 - 0.1 * i }));
  expect(withLevel(crateWith({ settings: { levels: { levels: full } } }), 4)).toHaveLength(7);
});

test("decisions other than a state's levels go to the base, also while a state is seen", () => {
  const decide = vi.fn();
  const burnt = { name: "burnt", parts: ["lid"], shared_parts: [], levels: null };
  const prop = crateWith({
    states: [{ name: "burnt", levels: [], model: "/b.glb", cull_distance: 40, radius: 0.7 }] as never,
    settings: { levels: { states: [burnt] } },
  });
  const { result } = renderHook(() => useSeenState(prop, decide));
  expect(result.current.prop).toBe(prop);
  act(() => result.current.see("burnt"));
  expect([result.current.prop.model, result.current.prop.facts.levels?.cull_distance]).toEqual(["/b.glb", 40]);
  result.current.decide("levels", { mirror: "x" });
  expect(decide).toHaveBeenLastCalledWith("levels", { mirror: "x" });
  result.current.decide("levels", { levels: [target({ ratio: 0.3 })], min_triangles: 8 });
  expect(decide).toHaveBeenLastCalledWith("levels", {
    min_triangles: 8,
    states: [{ ...burnt, levels: [target({ ratio: 0.3 })] }],
  });
  result.current.decide("levels", { levels: [] });
  expect(decide, "none of its own: the base's").toHaveBeenLastCalledWith("levels", { states: [burnt] });
  act(() => result.current.see("gone"));
  expect(result.current.name).toBeNull();
});
