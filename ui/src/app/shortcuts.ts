import { useEffect, useLayoutEffect, useRef } from "react";

/** Every shortcut, as `?` lists them. */
export const SHORTCUTS: { where: string; keys: [string, string][] }[] = [
  {
    where: "Everywhere",
    keys: [
      ["Ctrl K", "find a prop or a command"],
      ["?", "this list"],
      ["T", "chart paper or night"],
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
      ["L", "Source: leave the part in hand out, or ship it"],
      ["S", "Placement: spin about the pivot"],
      ["E O B A U", "Normals: mark an edge, a loop, a patch's border, a patch; turn faces"],
      ["H J K", "Normals: hard, soft, unmark"],
      ["D", "Levels: deviation in colour, where the slider stands"],
      ["W", "Levels: walk away from the prop; Space walks to and fro, . and , a step"],
      ["K J Z", "Levels: blink at a switch, its difference, enlarged"],
      ["Ctrl Z", "undo"],
      ["Ctrl Shift Z", "redo"],
      ["Esc", "back to the Yard"],
    ],
  },
];

type Handler = (event: KeyboardEvent) => void;

function isTyping(target: EventTarget | null): boolean {
  // A slider takes arrows, not letters.
  if (target instanceof HTMLInputElement && target.type === "range") return false;
  return target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName));
}

/**
 * Calls the handler of a pressed key: "k", "mod+k", "shift+1" ("mod" is Ctrl or Cmd). Digits are told by their key's
 * place, so that Shift does not change them. Nothing fires while text is typed, save for combinations with "mod".
 */
export function useShortcuts(handlers: Record<string, Handler>): void {
  const current = useRef(handlers);
  // Before the paint: whoever sees a new state may press its key at once.
  useLayoutEffect(() => {
    current.current = handlers;
  });
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const mod = event.ctrlKey || event.metaKey;
      if (event.defaultPrevented || event.altKey || (isTyping(event.target) && !(mod && event.key.toLowerCase() === "k"))) return;
      if (document.querySelector('[role="dialog"]') && event.key !== "Escape" && !mod) return;
      const digit = /^Digit(\d)$/.exec(event.code)?.[1];
      const key = digit ?? event.key.toLowerCase();
      const shift = event.shiftKey && (digit !== undefined || mod || key.length > 1);
      const handler = current.current[`${mod ? "mod+" : ""}${shift ? "shift+" : ""}${key}`];
      if (handler) {
        event.preventDefault();
        handler(event);
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
}
