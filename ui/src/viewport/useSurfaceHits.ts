import { useEffect, useRef } from "react";
import { type BufferGeometry, type Camera, Mesh, Raycaster, Vector2 } from "three";
import { acceleratedRaycast, MeshBVH } from "three-mesh-bvh";

import type { SurfaceLevel } from "./surfaceLevel";

export interface SurfaceHit {
  triangle: number;
  point: [number, number, number];
}

const STILL = 4;

/** Tells on which triangle of the surface the pointer over `element` is, and clicks from drags of the view. */
export function useSurfaceHits({
  surface,
  element,
  camera,
  onHover,
  onPick,
}: {
  surface: SurfaceLevel;
  element: HTMLElement;
  camera: Camera;
  onHover: (hit: SurfaceHit | null) => void;
  onPick: (hit: SurfaceHit) => void;
}) {
  // What comes from the server between press and release must not undo the press.
  const pressed = useRef<[number, number] | null>(null);
  useEffect(() => {
    // A tree over the triangles: without one every move of the pointer would ask them all.
    const meshes = surface.level.meshes.map(({ mesh }) => mesh);
    for (const mesh of meshes) {
      const geometry = mesh.geometry as BufferGeometry & { boundsTree?: MeshBVH };
      geometry.boundsTree ??= new MeshBVH(geometry, { indirect: true });
      mesh.raycast = acceleratedRaycast;
    }
    const rays = new Raycaster();
    rays.firstHitOnly = true;
    const ask = (event: PointerEvent): SurfaceHit | null => {
      const box = element.getBoundingClientRect();
      rays.setFromCamera(
        new Vector2(((event.clientX - box.left) / box.width) * 2 - 1, 1 - ((event.clientY - box.top) / box.height) * 2),
        camera,
      );
      const found = rays.intersectObjects(meshes, false)[0];
      if (found?.faceIndex == null || !(found.object instanceof Mesh)) return null;
      return { triangle: (found.object.userData.first as number) + found.faceIndex, point: found.point.toArray() };
    };
    const press = (event: PointerEvent) => {
      pressed.current = [event.clientX, event.clientY];
    };
    const release = (event: PointerEvent) => {
      const from = pressed.current;
      const isClick =
        from !== null && event.button === 0 && Math.hypot(event.clientX - from[0], event.clientY - from[1]) <= STILL;
      pressed.current = null;
      const hit = isClick ? ask(event) : null;
      if (hit) onPick(hit);
    };
    const move = (event: PointerEvent) => {
      if (!pressed.current) onHover(ask(event));
    };
    const leave = () => onHover(null);
    element.addEventListener("pointerdown", press);
    element.addEventListener("pointerup", release);
    element.addEventListener("pointermove", move);
    element.addEventListener("pointerleave", leave);
    return () => {
      element.removeEventListener("pointerdown", press);
      element.removeEventListener("pointerup", release);
      element.removeEventListener("pointermove", move);
      element.removeEventListener("pointerleave", leave);
    };
  }, [surface, element, camera, onHover, onPick]);
}
