import { fireEvent, render, renderHook, screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";

import { speedOf, useLooking, useWalking } from "./steering";
import { WALKER } from "./walkWorld";

const way = (keys: string[], turn = 0) => {
  const { x, y, z } = speedOf(new Set(keys), turn);
  return [x, y, z].map((one) => Number(one.toFixed(4)) + 0);
};

test("keys go forward, back and aside, at one pace whichever way", () => {
  expect(way(["w"])).toEqual([0, 0, -WALKER.pace]);
  expect(way(["ArrowDown"])).toEqual([0, 0, WALKER.pace]);
  expect(way(["a"])).toEqual([-WALKER.pace, 0, 0]);
  expect(way(["ArrowRight", "d"]), "twice the same is not faster").toEqual([WALKER.pace, 0, 0]);
  expect(speedOf(new Set(["w", "d"]), 0).length()).toBeCloseTo(WALKER.pace);
});

test("Shift runs, and what pulls both ways stands", () => {
  expect(way(["w", "Shift"])).toEqual([0, 0, -WALKER.run]);
  expect(way(["Shift"])).toEqual([0, 0, 0]);
  expect(way(["w", "s"])).toEqual([0, 0, 0]);
});

test("forward is where the eye is turned", () => {
  const [x, y, z] = way(["w"], Math.PI / 2);
  expect([x, y, z]).toEqual([-WALKER.pace, 0, 0]);
});

/** A scene that may be steered, below a frame that takes the focus. */
function scene() {
  const invalidate = vi.fn();
  render(
    <div role="img" aria-label="scene">
      <canvas data-testid="canvas" />
    </div>,
  );
  return { invalidate, frame: screen.getByRole("img"), canvas: screen.getByTestId("canvas") };
}

test("keys count while they are held, whatever their case, and none after the focus is gone", () => {
  const { invalidate, frame, canvas } = scene();
  const keys = { current: new Set<string>() };
  const { unmount } = renderHook(() => useWalking(canvas, keys, invalidate));
  const outside = vi.fn();
  document.body.addEventListener("keydown", outside);
  fireEvent.keyDown(frame, { key: "W" });
  fireEvent.keyDown(frame, { key: "Shift" });
  expect([...keys.current]).toEqual(["w", "Shift"]);
  expect(invalidate).toHaveBeenCalledTimes(2);
  expect(outside, "the page has shortcuts of the same letters").not.toHaveBeenCalled();
  fireEvent.keyDown(frame, { key: "k" });
  fireEvent.keyDown(frame, { key: "a", ctrlKey: true });
  expect(outside, "with Ctrl they are the page's and the browser's").toHaveBeenCalledTimes(2);
  expect([...keys.current]).toEqual(["w", "Shift"]);
  fireEvent.keyUp(frame, { key: "w" });
  expect([...keys.current]).toEqual(["Shift"]);
  fireEvent.blur(frame);
  expect(keys.current.size).toBe(0);
  unmount();
  fireEvent.keyDown(frame, { key: "w" });
  expect(keys.current.size, "another scene has the keys now").toBe(0);
  document.body.removeEventListener("keydown", outside);
});

test("dragging turns the eye, and not beyond up and down", () => {
  const { invalidate, canvas } = scene();
  const captured = vi.fn();
  Object.assign(canvas, { setPointerCapture: captured });
  const look = { current: { turn: 0, tilt: 0 } };
  renderHook(() => useLooking(canvas, look, invalidate));
  const drag = (movementX: number, movementY: number, buttons = 1) => {
    const event = new MouseEvent("pointermove", { buttons });
    Object.defineProperties(event, { movementX: { value: movementX }, movementY: { value: movementY } });
    canvas.dispatchEvent(event);
  };
  drag(100, 0, 0);
  expect(look.current.turn, "nothing is held").toBe(0);
  fireEvent.pointerDown(canvas, { pointerId: 7 });
  expect(captured).toHaveBeenCalledOnce();
  drag(100, -50);
  expect(look.current.turn).toBeCloseTo(0.4);
  expect(look.current.tilt).toBeCloseTo(-0.2);
  drag(0, 4000);
  expect(look.current.tilt).toBeCloseTo(1.4);
  drag(0, -9000);
  expect(look.current.tilt).toBeCloseTo(-1.4);
  expect(invalidate).toHaveBeenCalledTimes(3);
});
