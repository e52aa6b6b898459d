import { useEffect, useLayoutEffect, useRef } from "react";

/** The shortcuts of the frame, as `?` lists them; those of the stations stand with each. */
export const SHORTCUTS: { where: string; keys: [string, string][] }[] = [
  {
    where: "Everywhere",
    keys: [
      ["Ctrl K", "find a prop or a command"],
      ["?", "this list"],
      ["T", "light or dark"],
    ],
  },
  {
    where: "Yard",
    keys: [
      ["/", "search"],
      ["↑ ↓", "move along the rows"],
      ["Space", "select the row"],
      ["Enter", "open on the bench"],
      ["Ctrl A", "select all that are shown"],
      ["Delete", "take the selected off the board"],
    ],
  },
  {
    where: "Lines and destinations",
    keys: [
      ["Ctrl Z", "undo a change of the draft"],
      ["Ctrl Shift Z", "redo"],
    ],
  },
  {
    where: "Bench",
    keys: [
      ["0 … 7", "show a level"],
      ["Shift 1 … 7", "compare with that level in the split"],
      ["V", "next way of drawing"],
      ["X", "split on or off"],
      ["P", "standing figure on or off"],
      ["F", "frame the prop"],
      ["N", "next finding with a place"],
      ["] [", "next place of the finding, the one before"],
      ["Ctrl Z", "undo"],
      ["Ctrl Shift Z", "redo"],
      ["Esc", "back to the Yard"],
    ],
  },
];

/** `false`: not handled here, others may. */
type Handler = (event: KeyboardEvent) => unknown;

function isTyping(target: EventTarget | null): boolean {
  // A slider takes arrows, not letters.
  if (target instanceof HTMLInputElement && target.type === "range") return false;
  return (
    target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))
  );
}

/**
 * Calls the handler of a pressed key: "k", "mod+k", "shift+1" ("mod" is Ctrl or Cmd). Digits are told by their key's
 * place, so that Shift does not change them. While text is typed nothing fires but "mod+k".
 * With `first` they come before those without.
 */
export function useShortcuts(handlers: Record<string, Handler>, { first = false } = {}): void {
  const current = useRef(handlers);
  // Before the paint: whoever sees a new state may press its key at once.
  useLayoutEffect(() => {
    current.current = handlers;
  });
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const mod = event.ctrlKey || event.metaKey;
      if (
        event.defaultPrevented ||
        event.altKey ||
        (isTyping(event.target) && !(mod && event.key.toLowerCase() === "k"))
      )
        return;
      if (document.querySelector('[role="dialog"]') && event.key !== "Escape" && !mod) return;
      const digit = /^Digit(\d)$/.exec(event.code)?.[1];
      const key = digit ?? event.key.toLowerCase();
      const shift = event.shiftKey && (digit !== undefined || mod || key.length > 1);
      const handler = current.current[`${mod ? "mod+" : ""}${shift ? "shift+" : ""}${key}`];
      if (handler && handler(event) !== false) event.preventDefault();
    };
    window.addEventListener("keydown", onKey, first);
    return () => window.removeEventListener("keydown", onKey, first);
  }, [first]);
}
