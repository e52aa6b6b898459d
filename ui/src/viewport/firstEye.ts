import { type BufferGeometry, DoubleSide, type Material, Vector3 } from "three";

import type { LoadedLevel } from "./model";

const USUAL = new Vector3(0.62, 0.36, 0.7).normalize();
/** Share of what faces another eye that the usual one must see: of a sheet that is turned away it sees nothing. */
const ENOUGH = 0.1;
/** Triangles of a mesh that are asked, evenly among all. */
const ASKED = 50_000;

/**
 * The unit direction in which the eye lies at first: before the prop, to its right and above, unless nearly all of it
 * is turned away from there; then that of its mirror images to which most of the surface faces.
 */
export function firstEye({ meshes }: Pick<LoadedLevel, "meshes">): Vector3 {
  const eyes = [1, -1].flatMap((y) =>
    [1, -1].flatMap((z) => [1, -1].map((x) => ({ eye: USUAL.clone().multiply(new Vector3(x, y, z)), faces: 0 }))),
  );
  for (const { mesh, own } of meshes) {
    const isDouble = (own as Material).side === DoubleSide;
    eachVector(mesh.geometry as BufferGeometry, (vector) => {
      for (const one of eyes) {
        const along = vector.dot(one.eye);
        one.faces += isDouble ? Math.abs(along) : Math.max(along, 0);
      }
    });
  }
  const best = eyes.reduce((most, one) => (one.faces > most.faces ? one : most));
  const usual = eyes.find(({ eye }) => eye.equals(USUAL));
  return usual && usual.faces >= ENOUGH * best.faces ? usual.eye : best.eye;
}

/** Calls with twice the area vector of triangles, times how many each stands for; one and the same vector each time. */
function eachVector(geometry: BufferGeometry, take: (vector: Vector3) => void): void {
  const position = geometry.getAttribute("position");
  const index = geometry.getIndex();
  const triangles = Math.floor((index?.count ?? position.count) / 3);
  const stride = Math.max(Math.floor(triangles / ASKED), 1);
  const [a, b, c] = [new Vector3(), new Vector3(), new Vector3()];
  const at = (corner: number) => index?.getX(corner) ?? corner;
  for (let t = 0; t < triangles; t += stride) {
    a.fromBufferAttribute(position, at(3 * t));
    b.fromBufferAttribute(position, at(3 * t + 1)).sub(a);
    c.fromBufferAttribute(position, at(3 * t + 2)).sub(a);
    take(b.cross(c).multiplyScalar(stride));
  }
}
