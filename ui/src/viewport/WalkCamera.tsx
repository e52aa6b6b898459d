import { useFrame, useThree } from "@react-three/fiber";
import { useEffect, useRef } from "react";
import type { PerspectiveCamera, Vector3 } from "three";

import { type GameView, trueSizeAngle } from "./gameView";
import { FIELD_OF_VIEW } from "./fitting";

/** Seconds from near to far. */
const WAY = 12;

interface WalkCameraProps {
  middle: Vector3;
  view: GameView;
  near: number;
  far: number;
  goal: { distance: number; stamp: number } | null;
  isPlaying: boolean;
}

/**
 * Moves the eye straight away from the prop and back. While it is there the picture is the middle of the game's view at
 * its true pixel size; afterwards the camera is as it was.
 */
export function WalkCamera({ middle, view, near, far, goal, isPlaying }: WalkCameraProps) {
  const camera = useThree((state) => state.camera) as PerspectiveCamera;
  const controls = useThree((state) => state.controls) as unknown as Walker | null;
  const height = useThree((state) => state.size.height);
  const invalidate = useThree((state) => state.invalidate);
  const outwards = useRef(true);

  useEffect(() => {
    if (!controls) return;
    const was = {
      near: camera.near,
      far: camera.far,
      least: controls.minDistance,
      most: controls.maxDistance,
      target: controls.target.clone(),
      position: camera.position.clone(),
    };
    const away = camera.position.clone().sub(controls.target).normalize();
    controls.target.copy(middle);
    camera.position.copy(middle).addScaledVector(away, Math.max(was.position.distanceTo(was.target), near));
    controls.minDistance = near / 2;
    controls.maxDistance = far * 1.5;
    camera.near = near / 40;
    camera.far = far * 3;
    camera.updateProjectionMatrix();
    controls.update();
    return () => {
      camera.fov = FIELD_OF_VIEW;
      camera.near = was.near;
      camera.far = was.far;
      controls.minDistance = was.least;
      controls.maxDistance = was.most;
      controls.target.copy(was.target);
      camera.position.copy(was.position);
      camera.updateProjectionMatrix();
      controls.update();
      invalidate();
    };
  }, [camera, controls, middle, near, far, invalidate]);
  useEffect(() => {
    camera.fov = trueSizeAngle(view, height);
    camera.updateProjectionMatrix();
    invalidate();
  }, [camera, view, height, invalidate]);
  const setDistance = (distance: number) => {
    const away = camera.position.clone().sub(middle).normalize();
    camera.position.copy(middle).addScaledVector(away, distance);
    controls?.update();
    invalidate();
  };
  useEffect(() => {
    if (goal) setDistance(goal.distance);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [goal, controls]);
  useEffect(() => {
    if (isPlaying) invalidate();
  }, [isPlaying, invalidate]);
  useFrame((_, seconds) => {
    if (!isPlaying) return;
    const distance = camera.position.distanceTo(middle);
    // Equal shares of distance in equal times, as a walk seems from where the eye is.
    const share = (Math.log(far / near) * Math.min(seconds, 0.4)) / WAY;
    let next = distance * Math.exp(outwards.current ? share : -share);
    if (next >= far) outwards.current = false;
    if (next <= near) outwards.current = true;
    next = Math.min(Math.max(next, near), far);
    setDistance(next);
  });
  return null;
}

interface Walker {
  target: Vector3;
  minDistance: number;
  maxDistance: number;
  update: () => void;
}
