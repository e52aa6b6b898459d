import { fireEvent, render, screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";

import { crateWith } from "../../testing/crate";
import { choose, openStation, press, type } from "../../testing/station";
import { EdgeAngles } from "./EdgeAngles";
import { AimRead, MarkBar } from "./MarkBar";
import { OpenNormals } from "./OpenNormals";
import type { Marking } from "./useMarking";

const withOwn = { source: { has_normals: true } };

test("kept normals say whether there are any, and by what the rest is shaded", () => {
  openStation(OpenNormals, crateWith());
  expect(screen.getByText("The source has none: by angle 38°.")).toBeTruthy();
  expect(screen.queryByRole("group", { name: "Parts that keep their normals" })).toBeNull();
});

test("parts whose normals are recomputed are ticked one by one", () => {
  const parts = ["body", "lid"].map((path) => ({ path, kept: 3, computed: 0 }));
  const { decide } = openStation(
    OpenNormals,
    crateWith({ facts: { ...withOwn, normals: { parts } }, settings: { normals: { recomputed_parts: ["lid"] } } }),
  );
  press("body", "checkbox");
  expect(decide).toHaveBeenLastCalledWith("normals", { recomputed_parts: ["lid", "body"] });
  press("lid", "checkbox");
  expect(decide).toHaveBeenLastCalledWith("normals", { recomputed_parts: [] });
});

test("where normals come from and how faces count is chosen; what a choice alone needs shows with it", () => {
  const { decide } = openStation(OpenNormals, crateWith({ settings: { normals: { weighting: "large" } } }));
  choose("Normals come from", "All smooth");
  expect(decide).toHaveBeenLastCalledWith("normals", { source: "smooth" });
  choose("Normal weighting", "Area × angle");
  expect(decide).toHaveBeenLastCalledWith("normals", { weighting: "area-angle" });
  type("Counts from", "25");
  expect(decide).toHaveBeenLastCalledWith("normals", { large_face_ratio: 0.25 });
});

test("an all smooth or flat prop has no threshold", () => {
  openStation(OpenNormals, crateWith({ settings: { normals: { source: "flat" } } }));
  expect(screen.queryAllByRole("slider", { name: "Hard above, in degrees" })).toHaveLength(1);
});

test("moving the threshold makes the angle the rule", () => {
  const { decide } = openStation(OpenNormals, crateWith());
  const [threshold] = screen.getAllByRole("slider");
  fireEvent.keyDown(threshold!, { key: "ArrowRight" });
  fireEvent.blur(threshold!);
  expect(decide).toHaveBeenLastCalledWith("normals", { angle: 39, source: "angle" });
});

test("marks are counted and cleared at once", () => {
  const mark = [
    [0, 0, 0],
    [1, 0, 0],
  ] as never;
  const { decide } = openStation(
    OpenNormals,
    crateWith({ settings: { normals: { hard: [mark, mark], soft: [mark] } } }),
  );
  expect(screen.getByText(/2 hard · 1 soft · 0/)).toBeTruthy();
  press("Clear all marks");
  expect(decide).toHaveBeenLastCalledWith("normals", { hard: [], soft: [], patches: [] });
});

test("until the surface is there no edge can be marked", () => {
  openStation(OpenNormals, crateWith());
  expect(screen.getByRole("button", { name: "Mark all edges UV island borders hard" }).hasAttribute("disabled")).toBe(
    true,
  );
});

function angles(angle: number, more: Partial<Parameters<typeof EdgeAngles>[0]> = {}) {
  const [onAngle, onCommit] = [vi.fn(), vi.fn()];
  const edge_angles = Array.from({ length: 180 }, (_, at) => (at === 10 ? 40 : at === 90 ? 12 : 0));
  const cost = [
    { angle: 0, vertices: 300 },
    { angle: 40, vertices: 100 },
    { angle: 180, vertices: 60 },
  ];
  const props = { angle, onAngle, onCommit, liveCost: null, liveHard: null, hardCost: null, ...more };
  render(<EdgeAngles prop={crateWith({ facts: { normals: { edge_angles, cost } } })} {...props} />);
  return { onAngle, onCommit };
}

test("the threshold says how many edges are hard there and what they cost", () => {
  angles(20);
  expect(screen.getByText("20° · 12 hard edges · ≈ 200 engine vertices")).toBeTruthy();
});

test("what is counted on the drawn surface goes before what the build counted", () => {
  angles(20, { liveCost: 118, liveHard: 9, hardCost: 18 });
  expect(screen.getByText("20° · 9 hard edges · 118 engine vertices, 18 for them")).toBeTruthy();
});

test("its handle goes by the keyboard and stops at both ends", () => {
  const { onAngle, onCommit } = angles(175);
  const handle = screen.getByRole("slider");
  fireEvent.keyDown(handle, { key: "PageUp" });
  expect(onAngle).toHaveBeenLastCalledWith(180);
  fireEvent.keyDown(handle, { key: "ArrowLeft" });
  expect(onAngle).toHaveBeenLastCalledWith(174);
  fireEvent.keyDown(handle, { key: "q" });
  expect(onCommit, "held keys are one decision").not.toHaveBeenCalled();
  fireEvent.blur(handle);
  expect(onCommit.mock.calls).toEqual([[174]]);
});

test("a drag decides where it ends, and a press that moves nothing decides nothing", () => {
  const held = new Set<number>();
  Object.assign(SVGElement.prototype, {
    setPointerCapture: (pointer: number) => held.add(pointer),
    hasPointerCapture: (pointer: number) => held.has(pointer),
  });
  const { onAngle, onCommit } = angles(20);
  const handle = screen.getByRole("slider");
  fireEvent.pointerMove(handle, { pointerId: 1, clientX: 60 });
  expect(onAngle, "it is not held yet").not.toHaveBeenCalled();
  fireEvent.pointerDown(handle, { pointerId: 1 });
  fireEvent.pointerUp(handle, { pointerId: 1 });
  expect(onCommit).not.toHaveBeenCalled();
  fireEvent.pointerDown(handle, { pointerId: 1 });
  fireEvent.pointerMove(handle, { pointerId: 1, clientX: 9000 });
  expect(onAngle).toHaveBeenLastCalledWith(180);
  fireEvent.pointerMove(handle, { pointerId: 1, clientX: Number(screen.getByText("100°").getAttribute("x")) });
  expect(onCommit, "until it is let go").not.toHaveBeenCalled();
  fireEvent.pointerUp(handle, { pointerId: 1 });
  expect(onCommit).toHaveBeenCalledExactlyOnceWith(100);
});

const marking = (more: object) =>
  ({
    tool: null,
    act: "hard",
    grow: "angle",
    growAngle: 20,
    scope: "face",
    setTool: vi.fn(),
    setAct: vi.fn(),
    ...more,
  }) as unknown as Marking;

test("a tool is taken and put down; each shows what it can do", () => {
  const setTool = vi.fn();
  const { rerender } = render(<MarkBar marking={marking({ setTool })} />);
  expect(screen.queryByRole("radiogroup", { name: "Mark as" })).toBeNull();
  press("Edge");
  expect(setTool).toHaveBeenLastCalledWith("edge");
  rerender(<MarkBar marking={marking({ tool: "edge", setTool })} />);
  press("Edge");
  expect(setTool).toHaveBeenLastCalledWith(null);
  rerender(<MarkBar marking={marking({ tool: "patch" })} />);
  expect(screen.getByRole("radiogroup", { name: "Mark as" }).textContent).toBe("SmoothFlatClear");
  expect(screen.getByLabelText("up to")).toBeTruthy();
  rerender(<MarkBar marking={marking({ tool: "patch", grow: "shell" })} />);
  expect(screen.queryByLabelText("up to"), "a shell has no angle").toBeNull();
  rerender(<MarkBar marking={marking({ tool: "flip" })} />);
  expect(screen.getByRole("radiogroup", { name: "Flip" }).textContent).toBe("FacePatchShell");
});

test("what the tool would take stands over the view while one is in hand", () => {
  const { rerender } = render(<AimRead marking={marking({})} />);
  expect(screen.queryByRole("status")).toBeNull();
  rerender(<AimRead marking={marking({ tool: "edge", aim: null })} />);
  expect(screen.getByRole("status").textContent).toBe("point at the model");
  rerender(<AimRead marking={marking({ tool: "edge", aim: { text: "1 edge · +2 engine vertices" } })} />);
  expect(screen.getByRole("status").textContent).toBe("1 edge · +2 engine vertices");
});
