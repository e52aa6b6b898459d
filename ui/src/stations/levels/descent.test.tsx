import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act, fireEvent, render, renderHook, screen, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { expect, test, vi } from "vitest";

import { Replay, stepOfTriangles, type Descent } from "../../surface/descent";
import { crateWith } from "../../testing/crate";
import { DescentBar, DeviationScale } from "./DescentBar";
import { type DescentState, useDescent } from "./useDescent";
import type { Preview } from "./usePreview";
import { splitsOf, verticesNear } from "./vertices";

/**
 * A square with a square hole of four quads around it, told as eight triangles that go one by one; at the fourth step the
 * hole closes: two triangles end and begin anew, and two more close it.
 */
function closing(): Descent {
  const died = [8, 7, 6, 5, 4, 4, 2, 1];
  const fresh = [8, 8, 7, 6];
  const triangles = died.length + fresh.length;
  const order = [
    ...died.map((step, t) => ({ step, t, start: 0 })),
    ...fresh.map((step, t) => ({ step, t: 8 + t, start: 5 })),
  ].sort((a, b) => b.step - a.step);
  const at = (step: number) => order.filter((one) => one.start <= step && one.step >= step).length;
  const steps = Array.from({ length: 10 }, (_, step) => step);
  return {
    triangles,
    groups: [{ material: "rust", first: 0, last: triangles }],
    parent: Int32Array.from({ length: 36 }, () => -1),
    goes: Uint32Array.from({ length: 36 }, () => 9),
    nodesAt: Uint32Array.from(steps, () => 36),
    trianglesAt: Uint32Array.from(steps, at),
    verticesAt: Uint32Array.from(steps, (step) => 3 * at(step)),
    largestAt: Float32Array.from(steps, (step) => step / 100),
    distance: Float32Array.from(steps, () => 0.01),
    corner: Uint32Array.from(order.flatMap(({ t }) => [3 * t, 3 * t + 1, 3 * t + 2])),
    died: Uint32Array.from(order, ({ step }) => step),
    starts: Uint32Array.from(order, ({ start }) => start),
    place: new Float32Array(3 * 36),
    normal: null,
    uv: null,
  };
}

/** The triangles that are drawn, by their first corner. */
function drawn(replay: Replay): number[] {
  return Array.from({ length: replay.counts[0]! }, (_, t) => replay.index[3 * t]! / 3).sort((a, b) => a - b);
}

test("engine vertices between built levels follow what shading splits in those", () => {
  const way = closing();
  const at = (step: number) => ({ triangles: way.trianglesAt[step]!, vertices: way.verticesAt[step]! });
  expect(verticesNear(way, 3, []), "nothing is built").toBe(way.verticesAt[3]);
  const built = splitsOf(way, [
    { ...at(0), vertices: 2 * at(0).vertices },
    { ...at(8), vertices: 4 * at(8).vertices },
  ]);
  expect(verticesNear(way, 0, built)).toBe(2 * at(0).vertices);
  expect(verticesNear(way, 8, built)).toBe(4 * at(8).vertices);
  const between = verticesNear(way, 6, built) / way.verticesAt[6]!;
  expect(between).toBeGreaterThan(2);
  expect(between).toBeLessThan(4);
  expect(verticesNear(way, 9, built), "past the last built level as there").toBe(4 * way.verticesAt[9]!);
});

test("triangles that begin where a hole closes are drawn from there on, in whatever order the steps come", () => {
  const replay = new Replay(closing());
  for (const step of [9, 5, 4, 0, 5, 8]) {
    replay.to(step);
    expect(replay.counts[0], `step ${step}`).toBe(closing().trianglesAt[step]);
  }
  replay.to(4);
  expect(drawn(replay)).toEqual([0, 1, 2, 3, 4, 5]);
  replay.to(5);
  expect(drawn(replay), "two ended, two began anew, two closed the hole").toEqual([0, 1, 2, 3, 8, 9, 10, 11]);
  replay.to(8);
  expect(drawn(replay)).toEqual([0, 8, 9]);
});

test("a count is reached at the first step that has no more, also where a hole adds some later", () => {
  const way = closing();
  expect([...way.trianglesAt]).toEqual([8, 8, 7, 6, 6, 8, 7, 5, 3, 0]);
  expect(stepOfTriangles(way, 6)).toBe(3);
  expect(stepOfTriangles(way, 5)).toBe(7);
  expect(stepOfTriangles(way, 100)).toBe(0);
});

const NO_PREVIEW: Preview = { url: null, facts: null, isMaking: false };

function bar(more: Partial<DescentState>, triangles = 192, preview = NO_PREVIEW) {
  const descent = {
    isOffered: true,
    isFailed: false,
    retry: vi.fn(),
    level: { replay: { descent: closing() } },
    isOn: false,
    step: 0,
    isHot: false,
    stamp: 0,
    setStep: vi.fn(),
    setHot: vi.fn(),
    stop: vi.fn(),
    ...more,
  } as unknown as DescentState;
  const onUse = vi.fn();
  render(<DescentBar descent={descent} preview={preview} prop={crateWith()} triangles={triangles} onUse={onUse} />);
  return { descent, onUse };
}

test("while no one has moved it the slider stands at the level in sight, with that level's own count", () => {
  bar({}, 7);
  expect(screen.getByRole("status").textContent).toContain("7 tris");
  for (const name of ["Make it a level", "Done"]) {
    expect(screen.getByRole("button", { name })).toHaveProperty("disabled", true);
  }
});

test("moved, it says what is left and how far off that is, estimated; it becomes a level by its count", () => {
  const { descent, onUse } = bar({ isOn: true, step: 7 });
  expect(screen.getByRole("status").textContent).toBe("5 tris · ≈ 33 verts63% · dev. ≈ 70 mm");
  expect(screen.getByRole("slider").getAttribute("aria-valuetext")).toBe(
    "5 triangles, ≈ 33 engine vertices, ≈ 70 mm deviation",
  );
  fireEvent.change(screen.getByRole("slider"), { target: { value: "1000" } });
  expect(descent.setStep).toHaveBeenLastCalledWith(9);
  fireEvent.click(screen.getByRole("button", { name: "Deviation" }));
  expect(descent.setHot).toHaveBeenLastCalledWith(true);
  fireEvent.click(screen.getByRole("button", { name: "Make it a level" }));
  expect(onUse).toHaveBeenCalledWith(5);
  fireEvent.click(screen.getByRole("button", { name: "Done" }));
  expect(descent.stop).toHaveBeenCalledOnce();
});

test("where it rests the figures are those of the level that would ship, and nothing is about", () => {
  const facts = { ...crateWith().levels[1]!, triangles: 5, vertices: 11, deviation: 0.064 };
  const { onUse } = bar({ isOn: true, step: 7 }, 192, { url: null, facts, isMaking: false });
  expect(screen.getByRole("status").textContent).toBe("5 tris · 11 verts63% · dev. 64 mm");
  expect(screen.getByRole("slider").getAttribute("aria-busy")).toBe("false");
  fireEvent.click(screen.getByRole("button", { name: "Make it a level" }));
  expect(onUse).toHaveBeenCalledWith(5);
});

test("while that level is being made the slider says that it is busy, and the figures that they are about", () => {
  bar({ isOn: true, step: 7 }, 192, { url: null, facts: null, isMaking: true });
  expect(screen.getByRole("slider").getAttribute("aria-busy")).toBe("true");
  expect(screen.getByRole("status").textContent).toContain("≈ 33 verts");
});

test("at its very beginning stands LOD0 as it ships, with its own vertices and no deviation", () => {
  bar({ isOn: true, step: 0 });
  const whole = crateWith().levels[0]!;
  expect(screen.getByRole("status").textContent).toContain(`${whole.triangles} tris · ${whole.vertices} verts`);
  expect(screen.getByRole("status").textContent).not.toContain("≈");
});

test("a state has no way down of its own, and the bar says so", () => {
  bar({ isOffered: false, level: null });
  expect(screen.getByRole("slider")).toMatchObject({
    disabled: true,
    title: "only the base is slid down; choose it below",
  });
});

test("until the way down is there the bar keeps its place, with the level in sight and nothing to move", () => {
  const level = crateWith().levels[1]!;
  const { descent } = bar({ level: null }, level.triangles);
  expect(screen.getByRole("slider")).toHaveProperty("disabled", true);
  expect(screen.getByRole("status").textContent).toContain(`${level.triangles} tris · ${level.vertices} verts50%`);
  fireEvent.click(screen.getByRole("button", { name: "Deviation" }));
  expect(descent.setHot).not.toHaveBeenCalled();
  expect(screen.queryByRole("alert")).toBeNull();
});

test("where it could not be loaded the bar says so and loads it again", () => {
  const { descent } = bar({ isFailed: true, level: null });
  expect(screen.getByRole("alert").textContent).toContain("could not be loaded");
  fireEvent.click(screen.getByRole("button", { name: "Load again" }));
  expect(descent.retry).toHaveBeenCalledOnce();
});

test("the colours of the deviation have a scale while they are drawn, and say that they are estimated", () => {
  const at = (more: object) =>
    ({
      level: { replay: { descent: closing() } },
      isOn: true,
      isHot: true,
      step: 8,
      ...more,
    }) as unknown as DescentState;
  const { rerender } = render(<DeviationScale descent={at({})} preview={NO_PREVIEW} />);
  expect(screen.getByText("deviation, estimated")).toBeTruthy();
  expect(screen.getByText("80 mm")).toBeTruthy();
  expect(screen.getByText("20 mm")).toBeTruthy();
  const facts = { ...crateWith().levels[1]!, deviation: 0.096 };
  rerender(<DeviationScale descent={at({})} preview={{ url: null, facts, isMaking: false }} />);
  expect(screen.getByText("96 mm"), "its largest is known once the level is built").toBeTruthy();
  rerender(<DeviationScale descent={at({ isHot: false })} preview={NO_PREVIEW} />);
  expect(screen.queryByText("deviation, estimated")).toBeNull();
});

test("a way down that cannot be fetched leaves the levels as they are", async () => {
  const prop = crateWith({ descent: "/api/files/none.bin" });
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={queries}>{children}</QueryClientProvider>
  );
  const { result } = renderHook(() => useDescent({ prop, model: null }), { wrapper });
  await waitFor(() => expect(result.current).toMatchObject({ isOffered: true, isFailed: true, level: null }));
  act(() => result.current.setStep(3));
  act(() => result.current.setHot(true));
  expect([result.current.isOn, result.current.isHot, result.current.step]).toEqual([false, false, 0]);
});
