import { type RefObject, useEffect } from "react";
import { Vector3 } from "three";

import { WALKER } from "./walkWorld";

const LOOK = 0.004;
const KEYS: Record<string, [number, number]> = {
  w: [0, 1],
  ArrowUp: [0, 1],
  s: [0, -1],
  ArrowDown: [0, -1],
  a: [-1, 0],
  ArrowLeft: [-1, 0],
  d: [1, 0],
  ArrowRight: [1, 0],
};

/** Metres a second on the floor for the keys that are held, by where the eye is turned. */
export function speedOf(keys: Set<string>, turn: number): Vector3 {
  const speed = new Vector3();
  for (const key of keys) {
    const way = KEYS[key];
    if (way) speed.add(new Vector3(way[0], 0, -way[1]));
  }
  if (speed.lengthSq() === 0) return speed;
  speed.normalize().multiplyScalar(keys.has("Shift") ? WALKER.run : WALKER.pace);
  return speed.applyAxisAngle(new Vector3(0, 1, 0), turn);
}

/** Dragging turns the eye. */
export function useLooking(
  element: HTMLElement,
  look: RefObject<{ turn: number; tilt: number }>,
  invalidate: () => void,
): void {
  useEffect(() => {
    const drag = (event: PointerEvent) => {
      if (!(event.buttons & 1)) return;
      look.current.turn += event.movementX * LOOK;
      look.current.tilt = Math.min(Math.max(look.current.tilt + event.movementY * LOOK, -1.4), 1.4);
      invalidate();
    };
    const take = (event: PointerEvent) => {
      element.setPointerCapture(event.pointerId);
      element.focus();
    };
    element.addEventListener("pointerdown", take);
    element.addEventListener("pointermove", drag);
    return () => {
      element.removeEventListener("pointerdown", take);
      element.removeEventListener("pointermove", drag);
    };
  }, [element, look, invalidate]);
}

/** Keys count while they are held and the scene has the focus. */
export function useWalking(element: HTMLElement, keys: RefObject<Set<string>>, invalidate: () => void): void {
  useEffect(() => {
    const frame = element.closest<HTMLElement>("[role=img]") ?? element;
    const held = keys.current;
    const down = (event: KeyboardEvent) => {
      const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      if (!(key in KEYS) && key !== "Shift") return;
      held.add(key);
      event.preventDefault();
      event.stopPropagation();
      invalidate();
    };
    const up = (event: KeyboardEvent) => {
      held.delete(event.key.length === 1 ? event.key.toLowerCase() : event.key);
    };
    const leave = () => held.clear();
    frame.addEventListener("keydown", down);
    frame.addEventListener("keyup", up);
    frame.addEventListener("blur", leave, true);
    return () => {
      frame.removeEventListener("keydown", down);
      frame.removeEventListener("keyup", up);
      frame.removeEventListener("blur", leave, true);
    };
  }, [element, keys, invalidate]);
}
