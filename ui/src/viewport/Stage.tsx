import { useFrame, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef } from "react";
import { type Object3D, type PerspectiveCamera, PMREMGenerator, type Vector3 } from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";
import { RoomEnvironment } from "three/addons/environments/RoomEnvironment.js";

import type { Covered } from "./fitting";
import type { LoadedModel } from "./model";
import { type Frame, useFraming } from "./useFraming";
import type { EyeStore } from "./viewState";

/** Orbit by drag, pan by right drag, zoom by wheel; goes to frames that are asked for. */
export function Controls({
  frame,
  covered,
  room,
  sceneRadius,
  eye,
  middle,
}: {
  frame: Frame;
  covered: Covered;
  room: string;
  sceneRadius: number;
  eye: EyeStore;
  middle: Vector3;
}) {
  const camera = useThree((state) => state.camera) as PerspectiveCamera;
  const element = useThree((state) => state.gl.domElement);
  const invalidate = useThree((state) => state.invalidate);
  const controls = useMemo(() => new OrbitControls(camera, element), [camera, element]);
  useEffect(() => {
    controls.enableDamping = false;
    controls.listenToKeyEvents(element);
    const tell = () => {
      const offset = camera.position.clone().sub(middle);
      eye.set({ distance: offset.length(), bearing: (Math.atan2(offset.x, offset.z) * 180) / Math.PI });
      invalidate();
    };
    controls.addEventListener("change", tell);
    tell();
    return () => controls.removeEventListener("change", tell);
  }, [controls, camera, eye, middle, invalidate, element]);
  const set = useThree((state) => state.set);
  useEffect(() => {
    set({ controls });
    return () => controls.dispose();
  }, [controls, set]);
  useFraming(frame, covered, room, sceneRadius, controls);
  return null;
}

/** Pixels a side of the cube that is mirrored: it is blurred so far that more would show nothing, and take seconds. */
const ROOM = 64;

/** Soft sky, one sun, and a room to be mirrored in metal. */
export function Light() {
  const gl = useThree((state) => state.gl);
  const scene = useThree((state) => state.scene);
  useEffect(() => {
    const generator = new PMREMGenerator(gl);
    const room = new RoomEnvironment();
    const target = generator.fromScene(room, 0.04, 0.1, 100, { size: ROOM });
    scene.environment = target.texture;
    scene.environmentIntensity = 0.55;
    return () => {
      scene.environment = null;
      target.dispose();
      generator.dispose();
    };
  }, [gl, scene]);
  return (
    <>
      <hemisphereLight args={["#dfeaf2", "#a89c86", 0.9]} />
      <directionalLight position={[3, 7, 4]} intensity={2.0} />
    </>
  );
}

interface SplitRenderProps {
  model: LoadedModel;
  left: number;
  right: number;
  split: number | null;
}

/** Draws one level, or two side by side with one camera: left of the split the one, right of it the other. */
export function SplitRender({ model, left, right, split }: SplitRenderProps) {
  const invalidate = useThree((state) => state.invalidate);
  const current = useRef({ model, left, right, split });
  useEffect(() => {
    current.current = { model, left, right, split };
    invalidate();
  }, [model, left, right, split, invalidate]);
  useFrame(({ gl, scene, camera, size }) => {
    const { model: shown, left: one, right: two, split: at } = current.current;
    const only = (index: number) => shown.levels.forEach((level, i) => setVisible(level.object, i === index));
    if (at === null) {
      gl.setScissorTest(false);
      only(one);
      gl.render(scene, camera);
      return;
    }
    const x = Math.round(size.width * at);
    gl.setScissorTest(true);
    gl.setScissor(0, 0, x, size.height);
    only(one);
    gl.render(scene, camera);
    gl.setScissor(x, 0, size.width - x, size.height);
    only(two);
    gl.render(scene, camera);
    gl.setScissorTest(false);
  }, 1);
  return null;
}

function setVisible(object: Object3D, visible: boolean): void {
  object.visible = visible;
}
