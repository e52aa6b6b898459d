import { useThree } from "@react-three/fiber";
import { useEffect } from "react";
import { Mesh, Raycaster, Vector2, Vector3 } from "three";

import type { LoadedModel } from "./model";

/** What was clicked: the point, the corners of its triangle, and the node it belongs to; all in metres in the view. */
export interface Hit {
  point: Vector3;
  corners: [Vector3, Vector3, Vector3];
  node: string;
}

/** How far the pointer may move between press and release to count as a click, in pixels. */
const STILL = 4;

/** Tells a click on the model from a drag of the view. */
export function Picker({ model, level, onPick }: { model: LoadedModel; level: number; onPick: (hit: Hit) => void }) {
  const element = useThree((state) => state.gl.domElement);
  const camera = useThree((state) => state.camera);
  useEffect(() => {
    let pressed: [number, number] | null = null;
    const press = (event: PointerEvent) => {
      pressed = [event.clientX, event.clientY];
    };
    const release = (event: PointerEvent) => {
      const from = pressed;
      pressed = null;
      // Other buttons move the view.
      if (!from || event.button !== 0) return;
      if (Math.hypot(event.clientX - from[0], event.clientY - from[1]) > STILL) return;
      const box = element.getBoundingClientRect();
      const at = new Vector2(
        ((event.clientX - box.left) / box.width) * 2 - 1,
        1 - ((event.clientY - box.top) / box.height) * 2,
      );
      const rays = new Raycaster();
      rays.setFromCamera(at, camera);
      const meshes = model.levels[level]?.meshes.map(({ mesh }) => mesh) ?? [];
      const found = rays.intersectObjects(meshes, false)[0];
      if (!found?.face || !(found.object instanceof Mesh)) return;
      const positions = found.object.geometry.getAttribute("position");
      const corner = (index: number) => found.object.localToWorld(new Vector3().fromBufferAttribute(positions, index));
      const { a, b, c } = found.face;
      let node = found.object;
      while (node.parent && !node.name.startsWith("part_") && node.parent !== model.levels[level]?.object)
        node = node.parent as typeof node;
      onPick({ point: found.point, corners: [corner(a), corner(b), corner(c)], node: node.name });
    };
    element.addEventListener("pointerdown", press);
    element.addEventListener("pointerup", release);
    return () => {
      element.removeEventListener("pointerdown", press);
      element.removeEventListener("pointerup", release);
    };
  }, [element, camera, model, level, onPick]);
  return null;
}

/** The vertex or edge middle of the clicked triangle that is nearest to the click, or the point on the face itself. */
export function snapped(hit: Hit, to: "vertex" | "edge" | "face"): Vector3 {
  if (to === "face") return hit.point;
  const [a, b, c] = hit.corners;
  const middle = (p: Vector3, q: Vector3) => p.clone().add(q).multiplyScalar(0.5);
  const candidates = to === "vertex" ? [a, b, c] : [middle(a, b), middle(b, c), middle(c, a)];
  return candidates.reduce((best, next) => (next.distanceTo(hit.point) < best.distanceTo(hit.point) ? next : best));
}
