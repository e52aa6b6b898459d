import { fireEvent, render, screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";

import { SplitBar } from "./SplitBar";

/** The bar over a picture that begins at 100 px and is 400 px wide. */
function bar(at: number) {
  const onMove = vi.fn();
  const frame = document.createElement("div");
  frame.getBoundingClientRect = () => ({ left: 100, width: 400 }) as DOMRect;
  render(<SplitBar frame={{ current: frame }} at={at} onMove={onMove} />);
  return { onMove, handle: screen.getByRole("slider") };
}

test("it goes where the pointer is, and stops at both sides of the picture", () => {
  const { onMove, handle } = bar(0.5);
  fireEvent.pointerMove(handle, { clientX: 200, buttons: 0 });
  expect(onMove, "nothing is held").not.toHaveBeenCalled();
  for (const [clientX, share] of [
    [200, 0.25],
    [40, 0],
    [900, 1],
  ]) {
    fireEvent.pointerMove(handle, { clientX, buttons: 1 });
    expect(onMove).toHaveBeenLastCalledWith(share);
  }
});

test.each([
  ["ArrowLeft", 0.48],
  ["ArrowRight", 0.52],
  ["Home", 0],
  ["End", 1],
])("%s brings it from the middle to %f", (key, share) => {
  const { onMove, handle } = bar(0.5);
  fireEvent.keyDown(handle, { key });
  expect(onMove).toHaveBeenCalledExactlyOnceWith(share);
});

test("at its end it stays there, and other keys are the page's", () => {
  const { onMove, handle } = bar(0.01);
  const outside = vi.fn();
  document.body.addEventListener("keydown", outside);
  fireEvent.keyDown(handle, { key: "ArrowLeft" });
  expect(onMove).toHaveBeenLastCalledWith(0);
  expect(outside).not.toHaveBeenCalled();
  fireEvent.keyDown(handle, { key: "2" });
  expect(onMove).toHaveBeenCalledOnce();
  expect(outside).toHaveBeenCalledOnce();
  document.body.removeEventListener("keydown", outside);
});

test("it says where it stands in percent", () => {
  expect(bar(0.333).handle.getAttribute("aria-valuenow")).toBe("33");
});
