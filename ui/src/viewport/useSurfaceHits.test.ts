import { fireEvent, renderHook } from "@testing-library/react";
import { BoxGeometry, Mesh, PerspectiveCamera } from "three";
import { expect, test, vi } from "vitest";

import type { SurfaceLevel } from "./surfaceLevel";
import { useSurfaceHits } from "./useSurfaceHits";

const canvas = document.createElement("canvas");
canvas.getBoundingClientRect = () => new DOMRect(0, 0, 100, 100);
const camera = new PerspectiveCamera(60, 1);
camera.position.z = 3;
camera.updateMatrixWorld();

const mesh = new Mesh(new BoxGeometry());
mesh.userData.first = 0;
const surface = { level: { meshes: [{ mesh }] } } as unknown as SurfaceLevel;
const middle = { clientX: 50, clientY: 50, button: 0 };

test("a press counts though the tool in hand is another before its release, and a drag does not", () => {
  const [before, after] = [vi.fn(), vi.fn()];
  const view = renderHook(
    ({ onPick }) => useSurfaceHits({ surface, element: canvas, camera, onHover: vi.fn(), onPick }),
    { initialProps: { onPick: before } },
  );
  fireEvent.pointerDown(canvas, middle);
  view.rerender({ onPick: after });
  fireEvent.pointerUp(canvas, middle);
  expect(before).not.toHaveBeenCalled();
  expect(after).toHaveBeenCalledOnce();
  fireEvent.pointerDown(canvas, middle);
  fireEvent.pointerUp(canvas, { ...middle, clientX: 60 });
  expect(after).toHaveBeenCalledOnce();
});
