import { useCallback, useEffect, useRef } from "react";

const REST = 400;

/** Decides a value that keys move once they rest, so that held keys are one decision; `flush` decides at once. */
export function useRested(onCommit: (value: number) => void) {
  const commit = useRef(onCommit);
  useEffect(() => {
    commit.current = onCommit;
  });
  const waiting = useRef<{ value: number; timer: ReturnType<typeof setTimeout> } | null>(null);
  const flush = useCallback(() => {
    const now = waiting.current;
    waiting.current = null;
    if (!now) return;
    clearTimeout(now.timer);
    commit.current(now.value);
  }, []);
  const rest = useCallback(
    (value: number) => {
      if (waiting.current) clearTimeout(waiting.current.timer);
      waiting.current = { value, timer: setTimeout(flush, REST) };
    },
    [flush],
  );
  // What is left before it rests is decided all the same.
  useEffect(() => flush, [flush]);
  return { rest, flush };
}
