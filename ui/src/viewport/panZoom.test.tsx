import { fireEvent, render } from "@testing-library/react";
import { OrthographicCamera } from "three";
import { expect, test, vi } from "vitest";

import { makeView } from "../testing/view";
import { PanZoom } from "./PanZoom";

/** A square of side 1 around (0.5, 0.5) that fills half of the view's lesser side: 150 pixels of 300. */
function open(more: object = {}) {
  const camera = new OrthographicCamera();
  const view = makeView({ camera });
  const [onHover, onPick] = [vi.fn(), vi.fn()];
  const all = { middle: [0.5, 0.5] as const, extent: 1, fills: 0.5, stamp: 0, onHover, onPick, ...more };
  const { rerender } = render(<PanZoom {...all} />, { wrapper: view.View });
  const again = (next: object) => rerender(<PanZoom {...all} {...next} />);
  return { ...view, camera, onHover, onPick, again };
}

const at = (clientX: number, clientY: number, more: object = {}) => ({ clientX, clientY, button: 0, ...more });
const where = ({ position, zoom }: OrthographicCamera) =>
  [position.x, position.y, zoom].map((x) => Number(x.toFixed(6)));

test("what is to be seen stands in the middle and fills its share, or is so many pixels large", () => {
  expect(where(open().camera)).toEqual([0.5, 0.5, 150]);
  expect(where(open({ zoom: 2 }).camera)).toEqual([0.5, 0.5, 2]);
});

test("the pointer tells a place of the plane, upwards as it counts", () => {
  const { canvas, onHover } = open();
  fireEvent.pointerMove(canvas, at(275, 0));
  expect(onHover).toHaveBeenLastCalledWith([1, 1.5]);
  fireEvent.pointerLeave(canvas);
  expect(onHover).toHaveBeenLastCalledWith(null);
});

test("a click picks its place; a drag moves the plane along and picks nothing, nor does another button", () => {
  const { canvas, camera, onPick } = open();
  fireEvent.pointerDown(canvas, at(200, 150));
  fireEvent.pointerMove(canvas, at(203, 150));
  fireEvent.pointerUp(canvas, at(203, 150));
  expect(onPick.mock.lastCall![0]).toEqual([0.52, 0.5]);
  expect(where(camera)).toEqual([0.5, 0.5, 150]);
  fireEvent.pointerDown(canvas, at(200, 150));
  fireEvent.pointerMove(canvas, at(230, 150));
  fireEvent.pointerMove(canvas, at(230, 135));
  fireEvent.pointerUp(canvas, at(230, 135));
  expect(where(camera)).toEqual([0.3, 0.4, 150]);
  fireEvent.pointerDown(canvas, at(200, 150, { button: 2 }));
  fireEvent.pointerUp(canvas, at(200, 150, { button: 2 }));
  expect(onPick).toHaveBeenCalledOnce();
});

test("a drag that the system takes over is at its end", () => {
  const { canvas, camera, onHover } = open();
  fireEvent.pointerDown(canvas, at(200, 150));
  fireEvent.pointerCancel(canvas);
  fireEvent.pointerMove(canvas, at(300, 150));
  expect(where(camera)).toEqual([0.5, 0.5, 150]);
  expect(onHover).toHaveBeenCalledOnce();
});

test("the wheel zooms about the pointer, and neither in nor out without an end", () => {
  const { canvas, camera, onHover } = open();
  const place = () => {
    fireEvent.pointerMove(canvas, at(350, 75));
    return (onHover.mock.lastCall![0] as number[]).map((x) => x.toFixed(9));
  };
  const before = place();
  fireEvent.wheel(canvas, at(350, 75, { deltaY: -400 }));
  expect(camera.zoom).toBeCloseTo(150 * Math.exp(0.6), 6);
  expect(place()).toEqual(before);
  fireEvent.wheel(canvas, at(350, 75, { deltaY: -1e5 }));
  expect(camera.zoom).toBe(200_000);
  fireEvent.wheel(canvas, at(350, 75, { deltaY: 1e5 }));
  expect(camera.zoom).toBe(20);
  expect(place()).toEqual(before);
});

test("a stamp frames it anew; until it is moved it fills its share of whatever size", () => {
  const { canvas, camera, again } = open();
  again({ fills: 0.8 });
  expect(where(camera)).toEqual([0.5, 0.5, 240]);
  fireEvent.wheel(canvas, at(200, 150, { deltaY: -400 }));
  const moved = where(camera);
  again({ fills: 0.5 });
  expect(where(camera)).toEqual(moved);
  again({ fills: 0.5, stamp: 1 });
  expect(where(camera)).toEqual([0.5, 0.5, 150]);
});
