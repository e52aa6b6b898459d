import { Matrix4, type Vector3 } from "three";

import type { Hit } from "./Picker";

type Triple = [number, number, number];

const rounded = (values: number[]): Triple => values.map((value) => Number(value.toPrecision(9))) as Triple;

function inverse(matrix: number[] | undefined): Matrix4 | null {
  return matrix?.length === 16 ? new Matrix4().set(...(matrix as Parameters<Matrix4["set"]>)).invert() : null;
}

/** A point of the view, in metres, in the source's own units and axes. */
export function toSource(point: Vector3, matrix: number[] | undefined): Triple | null {
  const back = inverse(matrix);
  return back && rounded(point.clone().applyMatrix4(back).toArray());
}

/** The clicked place of a face and the side it faces, in the source's own units and axes. */
export function spotOf(hit: Hit, matrix: number[] | undefined): { point: Triple; facing: Triple } | null {
  const [point, back] = [toSource(hit.point, matrix), inverse(matrix)];
  if (!point || !back) return null;
  const [a, b, c] = hit.corners;
  const facing = b.clone().sub(a).cross(c.clone().sub(a));
  return { point, facing: rounded(facing.transformDirection(back).toArray()) };
}
