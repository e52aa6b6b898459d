import { fireEvent, render, screen } from "@testing-library/react";
import { beforeEach, expect, test, vi } from "vitest";

import type { Switches } from "../switches";
import { Handle } from "./Handle";
import { sightScale } from "./scale";

const switches: Switches = {
  view: { lines: 1080, angle: 60, radius: 0.7 },
  threshold: 1,
  bias: 1,
  levels: [],
  last: 260,
};
const scale = sightScale(switches, 900, 150);

beforeEach(() => {
  SVGElement.prototype.setPointerCapture = () => undefined;
  SVGElement.prototype.hasPointerCapture = () => true;
});

/** A handle at 10 m in a chart that begins 100 pixels from the left. */
function open() {
  const onCommit = vi.fn();
  const draw = (metres: number, isHeld: boolean) => (
    <text>{`${metres.toPrecision(4)} ${isHeld ? "held" : "there"}`}</text>
  );
  render(
    <svg>
      <Handle label="From" metres={10} scale={scale} onCommit={onCommit} draw={draw} />
    </svg>,
  );
  const handle = screen.getByRole("slider");
  handle.ownerDocument.querySelector("svg")!.getBoundingClientRect = () => new DOMRect(100, 0, 900, 150);
  const dragTo = (metres: number) => {
    fireEvent.pointerDown(handle);
    fireEvent.pointerMove(handle, { clientX: 100 + scale.along(metres) });
  };
  return { handle, onCommit, dragTo };
}

test("the chart goes from where the eye is at the prop to past where it is not drawn, both ways by their logarithm", () => {
  expect([scale.from, scale.to]).toEqual([0.5, 500]);
  expect([scale.x(0.5), scale.x(500), scale.x(9999), scale.y(10), scale.y(0.1)]).toEqual([52, 876, 876, 20, 128]);
  expect(scale.metresAt(scale.x(20))).toBeCloseTo(20, 9);
  expect(sightScale({ ...switches, last: null }, 0, 0).to, "never less than two powers of ten").toBe(50);
});

test("what is dragged follows the pointer and is decided when it is let go, once", () => {
  const { handle, onCommit, dragTo } = open();
  dragTo(40);
  expect(handle.textContent).toBe("40.00 held");
  expect(onCommit).not.toHaveBeenCalled();
  fireEvent.pointerUp(handle);
  expect(onCommit.mock.calls.map(([metres]) => Math.round(metres as number))).toEqual([40]);
  fireEvent.pointerUp(handle);
  expect(onCommit).toHaveBeenCalledOnce();
});

test("it stays within the chart, and a press alone decides nothing", () => {
  const { handle, onCommit, dragTo } = open();
  fireEvent.pointerDown(handle);
  fireEvent.pointerUp(handle);
  expect(onCommit).not.toHaveBeenCalled();
  dragTo(90_000);
  fireEvent.pointerUp(handle);
  expect(onCommit.mock.lastCall).toEqual([500]);
});

test("a drag that the system takes over leaves it where it was", () => {
  const { handle, onCommit, dragTo } = open();
  dragTo(40);
  fireEvent.pointerCancel(handle);
  fireEvent.pointerUp(handle);
  expect([handle.textContent, onCommit.mock.calls.length]).toEqual(["10.00 there", 0]);
});
