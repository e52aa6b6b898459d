import { renderHook } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";

import type { ActiveJob } from "./activity";
import { readRun, type Run, runWith, useRun } from "./useRun";

const job = (id: number, fraction = 0): ActiveJob => ({
  id,
  kind: "build",
  state: fraction ? "running" : "queued",
  fraction,
  doing: "",
  subject: id,
});
const jobs = (first: number, last: number) => Array.from({ length: last - first + 1 }, (_, k) => job(first + k));
const started = (ids: number) => runWith(null, jobs(1, ids), 0)!;

afterEach(() => vi.useRealTimers());

test("a run is as far as its jobs together, done ones with those that are under way", () => {
  const run = started(10);
  expect(readRun(run, jobs(1, 10), 1000)).toEqual({ fraction: 0, left: null });
  expect(readRun(run, [job(8, 0.5), job(9, 0.5), job(10)], 30_000).fraction).toBeCloseTo(0.8);
});

test("the time left is at the pace so far, once some are done", () => {
  const run = started(10);
  expect(readRun(run, jobs(3, 10), 10_000).left, "two say little").toBeNull();
  expect(readRun(run, jobs(6, 10), 10_000).left).toBeCloseTo(10);
  expect(readRun(run, jobs(6, 10), -1).left, "a clock that was put back").toBeNull();
});

test("what comes on the way makes the run longer, and does not begin it anew", () => {
  const run = runWith(started(4), jobs(3, 8), 20_000)!;
  expect(run.began).toBe(0);
  expect(run.seen.size).toBe(8);
  expect(readRun(run, jobs(5, 8), 40_000)).toEqual({ fraction: 0.5, left: 40 });
});

test("nothing new leaves the run as it is, and idleness ends it", () => {
  const run = started(4);
  expect(runWith(run, jobs(3, 4), 5000)).toBe(run);
  expect(runWith(run, [], 6000)).toBeNull();
  expect(runWith(null, jobs(9, 9), 7000)).toEqual({ began: 7000, seen: new Set([9]) } satisfies Run);
});

test("a page follows the run from what it is told, and begins again after a rest", () => {
  vi.useFakeTimers();
  vi.setSystemTime(0);
  const { result, rerender } = renderHook(({ now }) => useRun(now), { initialProps: { now: jobs(1, 8) } });
  expect(result.current).toEqual({ fraction: 0, left: null });
  vi.setSystemTime(60_000);
  rerender({ now: jobs(5, 8) });
  expect(result.current).toEqual({ fraction: 0.5, left: 60 });
  rerender({ now: [] });
  expect(result.current).toBeNull();
  rerender({ now: jobs(9, 9) });
  expect(result.current).toEqual({ fraction: 0, left: null });
});
