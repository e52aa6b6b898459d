import { type Box3, Vector3 } from "three";

import type { LoadedModel } from "./model";

/** Vertices that are asked, evenly among all. */
const ASKED = 30_000;

/** The corners of a box: x, y, z of one after the other. */
export function cornersOf({ min, max }: Box3): number[] {
  return [0, 1, 2, 3, 4, 5, 6, 7].flatMap((i) => [i & 1 ? max.x : min.x, i & 2 ? max.y : min.y, i & 4 ? max.z : min.z]);
}

/** Where the surface of a model's first level is: x, y, z of one vertex after the other. */
export function placesOf({ levels, bounds }: Pick<LoadedModel, "levels" | "bounds">): number[] {
  const meshes = levels[0]?.meshes.map(({ mesh }) => mesh) ?? [];
  const count = meshes.reduce((sum, mesh) => sum + mesh.geometry.getAttribute("position").count, 0);
  const stride = Math.max(Math.floor(count / ASKED), 1);
  const places: number[] = [];
  const place = new Vector3();
  for (const mesh of meshes) {
    const position = mesh.geometry.getAttribute("position");
    mesh.updateWorldMatrix(true, false);
    for (let i = 0; i < position.count; i += stride) {
      mesh.localToWorld(place.fromBufferAttribute(position, i));
      places.push(place.x, place.y, place.z);
    }
  }
  return places.length ? places : cornersOf(bounds);
}
