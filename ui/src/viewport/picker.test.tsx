import { fireEvent, render } from "@testing-library/react";
import { PerspectiveCamera } from "three";
import { expect, test, vi } from "vitest";

import { modelOf } from "../testing/level";
import { makeView } from "../testing/view";
import { type Hit, Picker } from "./Picker";

const model = modelOf([{ material: "tin", positions: [-1, -1, 0, 1, -1, 0, 0, 1, 0] }]);
model.levels[0]!.meshes[0]!.mesh.name = "part_3";

function open() {
  const camera = new PerspectiveCamera(60, 4 / 3);
  camera.position.z = 3;
  camera.updateMatrixWorld();
  const view = makeView({ camera });
  const onPick = vi.fn<(hit: Hit) => void>();
  render(<Picker model={model} level={0} onPick={onPick} />, { wrapper: view.View });
  const click = (from: number, to: number, button = 0) => {
    fireEvent.pointerDown(view.canvas, { clientX: from, clientY: 150, button });
    fireEvent.pointerUp(view.canvas, { clientX: to, clientY: 150, button });
  };
  return { click, onPick, canvas: view.canvas };
}

test("a click on the model tells its place, the triangle there, and the part", () => {
  const { click, onPick } = open();
  click(200, 202);
  const { point, corners, node } = onPick.mock.lastCall![0];
  expect(node).toBe("part_3");
  expect(point.z).toBeCloseTo(0, 12);
  expect(point.x).toBeCloseTo((3 * Math.tan(Math.PI / 6) * (4 / 3) * 2) / 200, 9);
  expect(corners.map((corner) => corner.toArray())).toEqual([
    [-1, -1, 0],
    [1, -1, 0],
    [0, 1, 0],
  ]);
});

test("a drag, another button, a release alone and a click beside it pick nothing", () => {
  const { click, onPick, canvas } = open();
  click(200, 210);
  click(200, 200, 2);
  fireEvent.pointerUp(canvas, { clientX: 200, clientY: 150, button: 0 });
  click(5, 5);
  expect(onPick).not.toHaveBeenCalled();
});
