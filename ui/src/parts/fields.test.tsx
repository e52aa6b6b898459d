import { fireEvent, render, screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";

import { Figure } from "./Figure";
import { NumberField, TextField } from "./TextField";

const field = (label: string) => screen.getByLabelText(label) as HTMLInputElement;
const type = (label: string, value: string) => fireEvent.change(field(label), { target: { value } });

test("text is decided on Enter and on leaving, once, and only if it changed", () => {
  const decided = vi.fn();
  const { rerender } = render(<TextField label="Name" value="crate" onCommit={decided} />);
  fireEvent.blur(field("Name"));
  expect(decided).not.toHaveBeenCalled();
  type("Name", "lamp");
  fireEvent.keyDown(field("Name"), { key: "Enter" });
  expect(decided).toHaveBeenCalledExactlyOnceWith("lamp");
  rerender(<TextField label="Name" value="lamp" onCommit={decided} />);
  fireEvent.blur(field("Name"));
  expect(decided).toHaveBeenCalledOnce();
  rerender(<TextField label="Name" value="undone" onCommit={decided} />);
  expect(field("Name").value, "what is decided elsewhere is shown").toBe("undone");
});

test("a text that is refused is put back", () => {
  render(<TextField label="Name" value="crate" onCommit={(name) => name.trim() !== ""} />);
  type("Name", " ");
  fireEvent.blur(field("Name"));
  expect(field("Name").value).toBe("crate");
});

test("a live field decides where the typing rests, and not at every key", () => {
  vi.useFakeTimers();
  const decided = vi.fn();
  render(<TextField live label="Template" value="" onCommit={decided} />);
  type("Template", "{pr");
  vi.advanceTimersByTime(200);
  type("Template", "{prop}");
  vi.advanceTimersByTime(200);
  expect(decided).not.toHaveBeenCalled();
  vi.advanceTimersByTime(200);
  expect(decided).toHaveBeenCalledExactlyOnceWith("{prop}");
  vi.useRealTimers();
});

test("a number takes a comma, has at most seven digits, and puts nonsense back", () => {
  const decided = vi.fn();
  render(<NumberField label="Yaw" unit="°" value={1 / 3} onCommit={decided} />);
  expect(field("Yaw").value).toBe("0.3333333");
  for (const nonsense of ["much", "", "1e999"]) {
    type("Yaw", nonsense);
    fireEvent.blur(field("Yaw"));
    expect(field("Yaw").value).toBe("0.3333333");
  }
  expect(decided).not.toHaveBeenCalled();
  type("Yaw", "-12,5");
  fireEvent.blur(field("Yaw"));
  expect(decided).toHaveBeenCalledExactlyOnceWith(-12.5);
});

test("a number beyond its limits becomes the nearest within them, and the field shows it", () => {
  const decided = vi.fn();
  render(<NumberField label="Share" unit="%" factor={100} limits={{ low: 0, high: 1 }} value={1} onCommit={decided} />);
  type("Share", "250");
  fireEvent.blur(field("Share"));
  expect(decided, "it is at its limit already").not.toHaveBeenCalled();
  expect(field("Share").value).toBe("100");
  type("Share", "12.5");
  fireEvent.blur(field("Share"));
  expect(decided).toHaveBeenLastCalledWith(0.125);
  type("Share", "-3");
  fireEvent.blur(field("Share"));
  expect(decided).toHaveBeenLastCalledWith(0);
});

test("a number that must be above its limit is put back at it, and a whole one is rounded", () => {
  const decided = vi.fn();
  render(<NumberField label="Scale" limits={{ above: 0 }} value={2} onCommit={decided} />);
  render(<NumberField label="Sides" limits={{ low: 3, whole: true }} value={4} onCommit={decided} />);
  type("Scale", "0");
  fireEvent.blur(field("Scale"));
  expect(field("Scale").value).toBe("2");
  type("Sides", "4.3");
  fireEvent.blur(field("Sides"));
  expect(field("Sides").value).toBe("4");
  expect(decided).not.toHaveBeenCalled();
  type("Sides", "5,6");
  fireEvent.blur(field("Sides"));
  expect(decided).toHaveBeenCalledExactlyOnceWith(6);
});

test("a figure previews what is sound while it is typed, and is above zero", () => {
  const [decided, drafted] = [vi.fn(), vi.fn()];
  render(<Figure label="px" value={2} onCommit={decided} onDraft={drafted} />);
  for (const text of ["", "-", "0", "3.5"]) type("px", text);
  expect(drafted.mock.calls).toEqual([[3.5]]);
  expect(decided).not.toHaveBeenCalled();
  field("px").focus();
  fireEvent.keyDown(field("px"), { key: "Enter" });
  expect(document.activeElement, "the keys go back to the Bench").not.toBe(field("px"));
  expect(decided).toHaveBeenCalledExactlyOnceWith(3.5);
  type("px", "-1");
  fireEvent.blur(field("px"));
  expect(field("px").value).toBe("2");
  expect(decided).toHaveBeenCalledOnce();
});

test("Escape puts back what was there, leaves the field and decides nothing", () => {
  const decided = vi.fn();
  render(
    <>
      <TextField label="Name" value="crate" onCommit={decided} />
      <NumberField label="Yaw" value={12} onCommit={decided} />
      <Figure label="Tris" value={50} onCommit={decided} />
    </>,
  );
  for (const [label, before] of [
    ["Name", "crate"],
    ["Yaw", "12"],
    ["Tris", "50"],
  ] as const) {
    field(label).focus();
    type(label, "7");
    fireEvent.keyDown(field(label), { key: "Escape" });
    expect([field(label).value, document.activeElement === field(label)]).toEqual([before, false]);
  }
  expect(decided).not.toHaveBeenCalled();
  type("Tris", "40");
  fireEvent.blur(field("Tris"));
  expect(decided).toHaveBeenCalledExactlyOnceWith(40);
});
