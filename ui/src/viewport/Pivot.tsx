import { useFrame, useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { BufferAttribute, BufferGeometry } from "three";

import { useTheme } from "../app/theme";
import type { LoadedModel } from "./model";

const SECONDS_A_TURN = 6;

/** The pivot, which is the origin: a cross with an upright and a ring to turn in; with `spin` the prop turns about it. */
export function PivotDrawn({ model, spin }: { model: LoadedModel; spin: boolean }) {
  const color = useTheme() === "night" ? "#f06bb5" : "#a81e6e";
  const reach = model.sphere.radius * 0.35;
  const invalidate = useThree((state) => state.invalidate);
  const geometry = useMemo(() => {
    const points = [-reach, 0, 0, reach, 0, 0, 0, -reach * 0.4, 0, 0, reach * 1.6, 0, 0, 0, -reach, 0, 0, reach];
    for (let i = 0; i < 48; i += 1) {
      for (const step of [i, i + 1]) {
        const angle = (step / 48) * 2 * Math.PI;
        points.push(reach * 0.8 * Math.cos(angle), 0, reach * 0.8 * Math.sin(angle));
      }
    }
    return new BufferGeometry().setAttribute("position", new BufferAttribute(new Float32Array(points), 3));
  }, [reach]);
  const turn = (angle: number) => {
    for (const level of model.levels) level.object.rotation.y = angle;
  };
  useFrame((_, delta) => {
    if (!spin) return;
    turn(((model.levels[0]?.object.rotation.y ?? 0) + (delta * 2 * Math.PI) / SECONDS_A_TURN) % (2 * Math.PI));
    invalidate();
  });
  useEffect(() => {
    if (!spin) turn(0);
    invalidate();
    return () => turn(0);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [spin, model, invalidate]);
  return (
    <lineSegments geometry={geometry} renderOrder={12}>
      <lineBasicMaterial color={color} depthTest={false} transparent />
    </lineSegments>
  );
}
