import { useMemo } from "react";
import { BufferAttribute, BufferGeometry, DoubleSide, Mesh, MeshBasicMaterial, type Object3D } from "three";

import { useDrawn } from "./useDrawn";

interface PatchProps {
  positions: Float32Array;
  triangles: Iterable<number>;
  color: string;
  opacity?: number;
  within?: Object3D | null;
}

/** Triangles of the surface under a tint. */
export function Patch({ positions, triangles, color, opacity = 0.45, within = null }: PatchProps) {
  const drawn = useMemo(() => {
    const list = Array.from(triangles);
    const out = new Float32Array(9 * list.length);
    list.forEach((t, i) => out.set(positions.subarray(9 * t, 9 * t + 9), 9 * i));
    const geometry = new BufferGeometry().setAttribute("position", new BufferAttribute(out, 3));
    const mesh = new Mesh(
      geometry,
      new MeshBasicMaterial({ color, transparent: true, opacity, side: DoubleSide, depthWrite: false }),
    );
    mesh.renderOrder = 2;
    return mesh;
  }, [positions, triangles, color, opacity]);
  useDrawn(drawn, within);
  return null;
}
