import { useCallback, useState } from "react";

import { type Data, withValue } from "./schema";

interface History {
  past: Data[];
  now: Data;
  future: Data[];
}

/** Drafts outlive their page: who looks at a prop in between finds them again. */
const kept = new Map<string, History>();
export const forgetDraft = (key: string) => kept.delete(key);

/** What is edited, with undo: `saved` until something is changed. */
export function useDraft(key: string, saved: Data) {
  const [, redraw] = useState(0);
  const history = kept.get(key) ?? { past: [], now: saved, future: [] };
  const put = useCallback(
    (next: History) => {
      kept.set(key, next);
      redraw((n) => n + 1);
    },
    [key],
  );
  const { past, now, future } = history;
  const replace = (next: Data) => put({ past: [...past, now], now: next, future: [] });
  return {
    data: now,
    isChanged: kept.has(key) && JSON.stringify(now) !== JSON.stringify(saved),
    replace,
    change: (path: string, value: unknown) => replace(withValue(now, path, value)),
    undo: past.length
      ? () => put({ past: past.slice(0, -1), now: past.at(-1) ?? saved, future: [now, ...future] })
      : null,
    redo: future.length ? () => put({ past: [...past, now], now: future[0] ?? saved, future: future.slice(1) }) : null,
    forget: () => {
      kept.delete(key);
      redraw((n) => n + 1);
    },
  };
}
