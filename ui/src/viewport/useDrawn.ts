import { useThree } from "@react-three/fiber";
import { useEffect } from "react";
import type { BufferGeometry, Material, Object3D } from "three";

type Drawn = Object3D & { geometry: BufferGeometry; material: Material };

/** Puts an object on the scene, or below `within` so that it shows only on that side of the split, and takes it off again. */
export function useDrawn(drawn: Drawn | null, within: Object3D | null): void {
  const invalidate = useThree((state) => state.invalidate);
  const scene = useThree((state) => state.scene);
  useEffect(() => {
    if (!drawn) return;
    const parent = within ?? scene;
    parent.add(drawn);
    invalidate();
    return () => {
      parent.remove(drawn);
      drawn.geometry.dispose();
      drawn.material.dispose();
      invalidate();
    };
  }, [drawn, within, scene, invalidate]);
}
