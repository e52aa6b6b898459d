import { renderHook } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";

import { useRested } from "./useRested";

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

function open() {
  const decided = vi.fn();
  const { result, unmount } = renderHook(() => useRested(decided));
  return { decided, unmount, keys: result.current };
}

test("what moves on is one decision, once it rests", () => {
  const { decided, keys } = open();
  keys.rest(1);
  vi.advanceTimersByTime(300);
  keys.rest(2);
  vi.advanceTimersByTime(300);
  expect(decided).not.toHaveBeenCalled();
  vi.advanceTimersByTime(300);
  keys.flush();
  expect(decided.mock.calls).toEqual([[2]]);
});

test("what is left before it rests is decided at once, and not again", () => {
  const { decided, keys, unmount } = open();
  keys.rest(3);
  keys.flush();
  expect(decided.mock.calls).toEqual([[3]]);
  keys.rest(4);
  unmount();
  expect(decided).toHaveBeenLastCalledWith(4);
  vi.runAllTimers();
  expect(decided.mock.calls).toEqual([[3], [4]]);
});
