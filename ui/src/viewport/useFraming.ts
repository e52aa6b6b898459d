import { useThree } from "@react-three/fiber";
import { useEffect, useRef } from "react";
import { type PerspectiveCamera, Vector3 } from "three";
import type { OrbitControls } from "three/addons/controls/OrbitControls.js";

/** Degrees from the top of the view to its foot. */
export const FIELD_OF_VIEW = 35;
const MARGIN = 1.08;

/** What the camera should show all of: the corners of a box. A new `stamp` asks again. */
export interface Frame {
  stamp: number;
  corners: Vector3[];
  /** Where the eye lies from it; null: where it is. */
  direction: Vector3 | null;
}

/**
 * How far back along `direction` (unit) from `centre` the eye must be for all points to lie in the view, of whose
 * height the share `free` has nothing standing over it.
 */
export function fittingDistance(
  points: Vector3[],
  centre: Vector3,
  direction: Vector3,
  aspect: number,
  free: number,
): number {
  const slope = Math.tan((FIELD_OF_VIEW * Math.PI) / 360) / MARGIN;
  const right = new Vector3(0, 1, 0).cross(direction);
  if (right.lengthSq() < 1e-6) right.set(1, 0, 0);
  right.normalize();
  const up = direction.clone().cross(right);
  const needed = points.map((point) => {
    const offset = point.clone().sub(centre);
    const across = Math.max(Math.abs(offset.dot(right)) / (slope * aspect), Math.abs(offset.dot(up)) / (slope * free));
    return across + offset.dot(direction);
  });
  return Math.max(...needed, 1e-6);
}

/**
 * Moves the eye to where it sees all of a frame, above what stands over the lowest `under` pixels of the view. Where
 * that grows later the picture moves up; the eye goes back only if nobody has moved it since.
 */
export function useFraming(frame: Frame, under: number, sceneRadius: number, controls: OrbitControls): void {
  const camera = useThree((state) => state.camera) as PerspectiveCamera;
  const { width, height } = useThree((state) => state.size);
  const invalidate = useThree((state) => state.invalidate);
  useEffect(() => {
    camera.setViewOffset(width, height, 0, under / 2, width, height);
    invalidate();
    return () => camera.clearViewOffset();
  }, [camera, width, height, under, invalidate]);
  const size = useRef({ width, height });
  useEffect(() => {
    size.current = { width, height };
  });
  const framed = useRef<{ frame: Frame; eye: Vector3 } | null>(null);
  useEffect(() => {
    const isStill = framed.current?.eye.equals(camera.position) && camera.fov === FIELD_OF_VIEW;
    if (framed.current?.frame === frame && !isStill) return;
    const { corners } = frame;
    const centre = corners.reduce((sum, corner) => sum.add(corner), new Vector3()).divideScalar(corners.length);
    const radius = Math.max(...corners.map((corner) => corner.distanceTo(centre)));
    const direction = frame.direction?.clone() ?? camera.position.clone().sub(controls.target);
    if (direction.lengthSq() < 1e-12) direction.set(0, 0, 1);
    direction.normalize();
    const free = Math.max(1 - under / size.current.height, 0.5);
    const distance = fittingDistance(corners, centre, direction, camera.aspect, free);
    camera.position.copy(centre).addScaledVector(direction, distance);
    controls.target.copy(centre);
    camera.near = Math.max(sceneRadius, radius) / 500;
    camera.far = Math.max(sceneRadius, radius) * 400;
    controls.minDistance = sceneRadius / 200;
    controls.maxDistance = sceneRadius * 150;
    camera.updateProjectionMatrix();
    controls.update();
    framed.current = { frame, eye: camera.position.clone() };
    invalidate();
  }, [frame, under, camera, controls, sceneRadius, invalidate]);
}
