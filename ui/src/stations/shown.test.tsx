import { render, renderHook } from "@testing-library/react";
import type { ReactNode } from "react";
import { expect, test, vi } from "vitest";

import { crateWith } from "../testing/crate";
import { benchOf } from "../testing/station";
import { type Bench, BenchContext, NOTHING_SHOWN, type Shown, useBench, useLevelsShown, useShown } from "./bench";

const within = (bench: Bench) =>
  function Within({ children }: { children: ReactNode }) {
    return <BenchContext value={bench}>{children}</BenchContext>;
  };

test("what a station shows is told once, and again only when something of it changed", () => {
  const bench = benchOf(crateWith());
  const { rerender } = renderHook((shown: Shown) => useShown(shown), {
    wrapper: within(bench),
    initialProps: { ...NOTHING_SHOWN, left: 1 },
  });
  rerender({ ...NOTHING_SHOWN, left: 1 });
  expect(bench.show).toHaveBeenCalledTimes(1);
  rerender({ ...NOTHING_SHOWN, left: 2 });
  expect(bench.show).toHaveBeenCalledTimes(2);
  expect(bench.show).toHaveBeenLastCalledWith(expect.objectContaining({ left: 2 }));
});

test("levels are shown no further than there are, and compared only where there are two", () => {
  const one = benchOf(crateWith({ levels: crateWith().levels.slice(0, 1) }), { left: 3, right: 2 });
  renderHook(() => useLevelsShown(), { wrapper: within(one) });
  expect(vi.mocked(one.show).mock.lastCall![0]).toMatchObject({ left: 0, right: 0, canSplit: false, chip: 0 });
  const four = benchOf(crateWith(), { left: 2, right: 9, split: 0.5 });
  renderHook(() => useLevelsShown({ spins: true }), { wrapper: within(four) });
  expect(vi.mocked(four.show).mock.lastCall![0]).toMatchObject({
    left: 2,
    right: 3,
    canSplit: true,
    split: 0.5,
    spins: true,
    levels: four.prop.levels,
  });
});

test("a station away from the Bench is a mistake that is told at once", () => {
  function Lost() {
    useBench();
    return null;
  }
  vi.spyOn(console, "error").mockImplementation(() => undefined);
  expect(() => render(<Lost />)).toThrow("must be used on the Bench");
});
