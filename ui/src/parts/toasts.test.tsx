import { act, fireEvent, render, screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";

import { Modal } from "./Modal";
import { RangeSlider } from "./RangeSlider";
import { Segmented } from "./Segmented";
import { type Notice, ToastProvider, useNotify } from "./Toasts";

let notify: (notice: Notice) => void;

function Speaker() {
  notify = useNotify();
  return null;
}

function speak(...notices: Notice[]) {
  render(
    <ToastProvider>
      <Speaker />
    </ToastProvider>,
  );
  for (const notice of notices) act(() => notify(notice));
}

test("what is said in passing goes by itself; a problem stays until it is closed", () => {
  vi.useFakeTimers();
  speak({ title: "Source replaced" }, { title: "the disk is full", isProblem: true });
  act(() => vi.advanceTimersByTime(8000));
  vi.useRealTimers();
  expect(screen.queryByText("Source replaced")).toBeNull();
  expect(screen.getByText("the disk is full")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Close" }));
  expect(screen.queryByText("the disk is full")).toBeNull();
});

test("a notice has its lines and one thing to do about it", () => {
  const run = vi.fn();
  speak({ title: "3 props removed", lines: ["crate", "lamp"], action: { label: "Undo", run } });
  expect(screen.getByText("lamp")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Undo" }));
  expect(run).toHaveBeenCalledOnce();
  expect(screen.queryByText("3 props removed"), "done, it goes").toBeNull();
});

test("only the last four are kept in sight", () => {
  speak(...[1, 2, 3, 4, 5, 6].map((n) => ({ title: `problem ${n}`, isProblem: true })));
  expect(screen.queryByText("problem 2")).toBeNull();
  expect([3, 4, 5, 6].every((n) => screen.getByText(`problem ${n}`))).toBe(true);
});

test("to speak outside of a page's provider is a mistake that is told at once", () => {
  vi.spyOn(console, "error").mockImplementation(() => undefined);
  expect(() => render(<Speaker />)).toThrow("within a ToastProvider");
});

test("a dialog has its title, says more where there is more, and closes by its cross", () => {
  const onOpenChange = vi.fn();
  render(
    <Modal open onOpenChange={onOpenChange} title="Storage" description="What fills the disk.">
      <p>12 GB</p>
    </Modal>,
  );
  expect(screen.getByRole("dialog", { name: "Storage" }).textContent).toContain("What fills the disk.");
  fireEvent.click(screen.getByRole("button", { name: "Close" }));
  expect(onOpenChange).toHaveBeenCalledWith(false);
});

test("one of a few is always chosen: pressing the chosen one again changes nothing", () => {
  const onChange = vi.fn();
  const options = [
    { value: "low", label: "Low" },
    { value: "high", label: "High", hint: "at the top" },
  ];
  render(<Segmented label="Side" value="low" options={options} onChange={onChange} />);
  fireEvent.click(screen.getByText("Low"));
  expect(onChange).not.toHaveBeenCalled();
  fireEvent.click(screen.getByText("High"));
  expect(onChange).toHaveBeenCalledExactlyOnceWith("high");
  expect(screen.getByText("High").title).toBe("at the top");
});

test("a value on a scale goes by steps and stops at its ends", () => {
  const [onChange, onCommit] = [vi.fn(), vi.fn()];
  render(<RangeSlider label="Angle" value={179} min={0} max={180} step={1} onChange={onChange} onCommit={onCommit} />);
  const thumb = screen.getByRole("slider", { name: "Angle" });
  expect(thumb.getAttribute("aria-valuemax")).toBe("180");
  fireEvent.keyDown(thumb, { key: "ArrowRight" });
  expect(onChange).toHaveBeenLastCalledWith(180);
  fireEvent.keyDown(thumb, { key: "Home" });
  expect(onChange).toHaveBeenLastCalledWith(0);
  expect(onCommit, "held keys are one decision").not.toHaveBeenCalled();
  fireEvent.blur(thumb);
  expect(onCommit.mock.calls).toEqual([[0]]);
});
