import { useThree } from "@react-three/fiber";
import { useEffect, useRef } from "react";
import { type PerspectiveCamera, Vector3 } from "three";
import type { OrbitControls } from "three/addons/controls/OrbitControls.js";

import { type Covered, FIELD_OF_VIEW, fit, type Free, shiftOf } from "./fitting";

/** What the camera should show all of: x, y, z of one place after the other. A new `stamp` asks again. */
export interface Frame {
  stamp: number;
  places: ArrayLike<number>;
  /** Where the eye lies from it; null: where it is. */
  direction: Vector3 | null;
}

/**
 * Moves the eye to where it sees all of a frame, clear of what stands over the view. In another `room`, where something
 * else stands there, it goes there again if nobody has moved it; what appears after a press moves nothing.
 */
export function useFraming(
  frame: Frame,
  covered: Covered,
  room: string,
  sceneRadius: number,
  controls: OrbitControls,
): void {
  const camera = useThree((state) => state.camera) as PerspectiveCamera;
  const { width, height } = useThree((state) => state.size);
  const invalidate = useThree((state) => state.invalidate);
  const free = useRef<Free>({ left: 0, top: 0, foot: 0 });
  const framed = useRef<{ frame: Frame; eye: Vector3 } | null>(null);
  const isSettled = useRef(false);
  useEffect(() => {
    const settle = () => {
      isSettled.current = true;
    };
    window.addEventListener("pointerdown", settle, true);
    window.addEventListener("keydown", settle, true);
    return () => {
      window.removeEventListener("pointerdown", settle, true);
      window.removeEventListener("keydown", settle, true);
    };
  }, []);
  useEffect(() => {
    isSettled.current = false;
  }, [frame, room]);
  useEffect(() => {
    const isStill = framed.current?.eye.equals(camera.position) && camera.fov === FIELD_OF_VIEW;
    if (framed.current?.frame === frame && (isSettled.current || !isStill)) return;
    const direction = frame.direction?.clone() ?? camera.position.clone().sub(controls.target);
    if (direction.lengthSq() < 1e-12) direction.set(0, 0, 1);
    const found = fit(frame.places, direction.normalize(), { width, height }, covered);
    free.current = found.free;
    camera.position.copy(found.eye);
    controls.target.copy(found.target);
    camera.near = Math.max(sceneRadius, found.reach) / 500;
    camera.far = Math.max(sceneRadius, found.reach) * 400;
    controls.minDistance = sceneRadius / 200;
    controls.maxDistance = sceneRadius * 150;
    controls.update();
    framed.current = { frame, eye: camera.position.clone() };
  }, [frame, covered, room, width, height, camera, controls, sceneRadius]);
  useEffect(() => {
    const [right, up] = shiftOf(free.current);
    camera.setViewOffset(width, height, -right, up, width, height);
    invalidate();
    return () => camera.clearViewOffset();
  }, [camera, width, height, frame, covered, room, invalidate]);
}
