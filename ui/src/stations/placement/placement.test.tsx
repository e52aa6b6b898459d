import { act, fireEvent, screen } from "@testing-library/react";
import { Vector3 } from "three";
import { expect, test, vi } from "vitest";

import { crateWith } from "../../testing/crate";
import { choose, openStation, press, type } from "../../testing/station";
import type { Shown } from "../bench";
import { OpenPlacement } from "./OpenPlacement";

const lastShown = (bench: ReturnType<typeof openStation>) => vi.mocked(bench.show).mock.lastCall![0] as Shown;

test("unit, axis, scale and yaw are decided each by itself", () => {
  const { decide } = openStation(OpenPlacement, crateWith());
  choose("Unit of the source", "centimetres");
  expect(decide).toHaveBeenLastCalledWith("placement", { unit: "cm" });
  choose("Axis that points up", "Z points up");
  expect(decide).toHaveBeenLastCalledWith("placement", { up: "z" });
  type("Scale factor", "0,1");
  expect(decide).toHaveBeenLastCalledWith("placement", { scale: 0.1 });
  type("Yaw", "-90");
  expect(decide).toHaveBeenLastCalledWith("placement", { yaw: -90 });
  press("Keep position in the scene", "checkbox");
  expect(decide).toHaveBeenLastCalledWith("placement", { keep_position: true });
});

test("a scale of nothing or of less is not taken", () => {
  const { decide } = openStation(OpenPlacement, crateWith());
  for (const text of ["0", "-2", "", "wide"]) type("Scale factor", text);
  expect(decide).not.toHaveBeenCalled();
  expect((screen.getByLabelText("Scale factor") as HTMLInputElement).value).toBe("1");
});

test("a place of the bounds is chosen axis by axis", () => {
  const { decide } = openStation(OpenPlacement, crateWith({ settings: { placement: { pivot: "bounds" } } }));
  const high = screen.getByRole("radiogroup", { name: "Pivot along Z" }).querySelectorAll("button")[2]!;
  expect(high.textContent).toBe("high");
  fireEvent.click(high);
  expect(decide).toHaveBeenLastCalledWith("placement", { anchor: [0, -1, 1] });
});

test("a pivot on the model is typed in the source's units", () => {
  const settings = { placement: { pivot: "point" as const, point: [1, 2, 3] as [number, number, number] } };
  const { decide } = openStation(OpenPlacement, crateWith({ settings }));
  type("Y in the source", "2.5");
  expect(decide).toHaveBeenLastCalledWith("placement", { point: [1, 2.5, 3], snap_to: "typed" });
});

test("a click on the model puts the pivot on the nearest vertex, in the source's units and axes", () => {
  // The source is in centimetres and lies one metre off along x.
  const matrix = [0.01, 0, 0, 1, 0, 0.01, 0, 0, 0, 0, 0.01, 0, 0, 0, 0, 1];
  const prop = crateWith({ settings: { placement: { pivot: "point" } }, facts: { placement: { matrix } } });
  const bench = openStation(OpenPlacement, prop);
  expect(lastShown(bench)).toMatchObject({ drawsPivot: true, onPick: null });
  press("vertex");
  expect(screen.getByText("Click a vertex on the model")).toBeTruthy();
  const corners: [Vector3, Vector3, Vector3] = [new Vector3(1, 0, 0), new Vector3(2, 0, 0), new Vector3(1, 1, 0)];
  act(() => lastShown(bench).onPick?.({ point: new Vector3(1.1, 0.8, 0), corners, node: "crate_LOD0" }));
  expect(bench.decide).toHaveBeenLastCalledWith("placement", {
    pivot: "point",
    snap_to: "vertex",
    point: [0, 100, 0],
  });
  expect(lastShown(bench).onPick, "one click, one place").toBeNull();
});

test("Escape ends the picking, S spins the prop about its pivot and stops it", () => {
  const bench = openStation(OpenPlacement, crateWith({ settings: { placement: { pivot: "point" } } }));
  press("face");
  expect(lastShown(bench).onPick).not.toBeNull();
  fireEvent.keyDown(document.body, { key: "Escape" });
  expect(lastShown(bench).onPick).toBeNull();
  fireEvent.keyDown(document.body, { key: "s" });
  expect(lastShown(bench).spins).toBe(true);
  press("Stop");
  expect(lastShown(bench).spins).toBe(false);
});

test("its size stands beside the board's, and a guess multiplies the scale that is set", () => {
  const prop = crateWith({
    peers: [{ name: "bell", longest: 0.4 }] as never,
    settings: { placement: { scale: 2 } },
    facts: { placement: { guesses: [{ factor: 0.01, longest: 0.008 }] as never } },
  });
  const { decide } = openStation(OpenPlacement, prop);
  expect(screen.getByText(/this prop and 1 other of the board/)).toBeTruthy();
  expect(screen.getByRole("img").getAttribute("aria-label")).toBe("Longest side 1 m beside other props");
  press("× 0.01");
  expect(decide).toHaveBeenLastCalledWith("placement", { scale: 0.02 });
});
