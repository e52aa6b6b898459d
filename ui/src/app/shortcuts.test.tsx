import { fireEvent, render, screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";

import { useShortcuts } from "./shortcuts";

function Listening({ handlers, first }: { handlers: Record<string, () => unknown>; first?: boolean }) {
  useShortcuts(handlers, { first: first ?? false });
  return null;
}

const press = (key: string, more: KeyboardEventInit = {}, on: Element | Window = window) =>
  fireEvent.keyDown(on, { key, ...more });

test("keys, digits with Shift and combinations reach their handlers", () => {
  const [v, one, shiftOne, redo] = [vi.fn(), vi.fn(), vi.fn(), vi.fn()];
  render(<Listening handlers={{ v, "1": one, "shift+1": shiftOne, "mod+shift+z": redo }} />);
  press("V");
  press("1", { code: "Digit1" });
  press("!", { code: "Digit1", shiftKey: true });
  press("Z", { ctrlKey: true, shiftKey: true });
  press("v", { altKey: true });
  for (const handler of [v, one, shiftOne, redo]) expect(handler).toHaveBeenCalledTimes(1);
});

test("nothing fires while text is typed or a dialog is open, save what is meant to", () => {
  const handlers = { f: vi.fn(), "mod+k": vi.fn(), escape: vi.fn() };
  render(
    <>
      <Listening handlers={handlers} />
      <input aria-label="name" />
      <input type="range" aria-label="angle" />
    </>,
  );
  press("f", {}, screen.getByLabelText("name"));
  expect(handlers.f).not.toHaveBeenCalled();
  press("k", { ctrlKey: true }, screen.getByLabelText("name"));
  press("f", {}, screen.getByLabelText("angle"));
  expect(handlers["mod+k"]).toHaveBeenCalledTimes(1);
  expect(handlers.f).toHaveBeenCalledTimes(1);
  render(<div role="dialog" />);
  press("f");
  press("Escape");
  expect(handlers.f).toHaveBeenCalledTimes(1);
  expect(handlers.escape).toHaveBeenCalledTimes(1);
});

test("a station's key comes before the frame's, and falls through where it does nothing", () => {
  const frame = vi.fn();
  const station = vi.fn(() => true as unknown);
  render(
    <>
      <Listening handlers={{ escape: frame }} />
      <Listening handlers={{ escape: station }} first />
    </>,
  );
  press("Escape");
  expect([station.mock.calls.length, frame.mock.calls.length]).toEqual([1, 0]);
  station.mockReturnValue(false);
  press("Escape");
  expect([station.mock.calls.length, frame.mock.calls.length]).toEqual([2, 1]);
});
