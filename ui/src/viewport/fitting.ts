import { Vector3 } from "three";

import type { Box } from "../parts/useBox";

/** Degrees from the top of the view to its foot. */
export const FIELD_OF_VIEW = 35;
const MARGIN = 1.12;
/** Pixels between what stands over the view and the prop. */
const GAP = 8;

/** Pixels of the view over which something stands: at its foot, and as boxes from its upper left corner on. */
export interface Covered {
  foot: number;
  corner: Box[];
}

/** Pixels along each side of the view that are kept free. */
export interface Free {
  left: number;
  top: number;
  foot: number;
}

/** Where the eye must be, and what it looks at; what is furthest lies in the reach of it. */
export interface Fitted {
  eye: Vector3;
  target: Vector3;
  reach: number;
  free: Free;
}

/**
 * The eye that sees all places (x, y, z of one after the other) as large as they go from the side of `direction` (unit):
 * in the middle of the view above its foot if nothing comes under the corner, else beside or below its boxes.
 */
export function fit(places: ArrayLike<number>, direction: Vector3, view: Box, { foot, corner }: Covered): Fitted {
  const whole = { left: 0, top: 0, foot: Math.min(foot, 0.5 * view.height) };
  const middle = fitted(places, direction, view, whole);
  if (!isUnder(places, direction, view, middle, corner)) return middle;
  const rising = corner.toSorted((one, other) => one.height - other.height);
  // Below the lower boxes, and beside the higher ones.
  const ways = [...rising.keys(), rising.length].map((below) => {
    const top = rising[below - 1]?.height ?? -GAP;
    const left = Math.max(...rising.slice(below).map(({ width }) => width), -GAP);
    return fitted(places, direction, view, {
      ...whole,
      left: Math.min(left + GAP, 0.7 * view.width),
      top: Math.min(top + GAP, 0.4 * view.height),
    });
  });
  return ways.reduce((best, next) => (next.reach < best.reach ? next : best));
}

/** The slope of the view from one of its pixels to the next. */
const slopeOf = (view: Box) => (2 * Math.tan((FIELD_OF_VIEW * Math.PI) / 360)) / view.height;

/** The directions right and up in the picture. */
function axesOf(direction: Vector3): [Vector3, Vector3] {
  const right = new Vector3(0, 1, 0).cross(direction);
  if (right.lengthSq() < 1e-6) right.set(1, 0, 0);
  right.normalize();
  return [right, direction.clone().cross(right)];
}

/**
 * Each side of what is free is a plane that all places lie within. Towards the eye it comes in by its slope, so that for
 * each the place furthest along its normal decides; from the two sides across follow the distance and the shift.
 */
function fitted(places: ArrayLike<number>, direction: Vector3, view: Box, free: Free): Fitted {
  const slope = slopeOf(view) / (2 * MARGIN);
  const [wide, high] = [slope * (view.width - free.left), slope * (view.height - free.top - free.foot)];
  const [right, up] = axesOf(direction);
  let [toRight, toLeft, upwards, downwards] = [-Infinity, -Infinity, -Infinity, -Infinity];
  let [nearest, furthest] = [-Infinity, Infinity];
  const place = new Vector3();
  for (let i = 0; i < places.length; i += 3) {
    place.fromArray(places, i);
    const [x, y, z] = [place.dot(right), place.dot(up), place.dot(direction)];
    toRight = Math.max(toRight, x + wide * z);
    toLeft = Math.max(toLeft, wide * z - x);
    upwards = Math.max(upwards, y + high * z);
    downwards = Math.max(downwards, high * z - y);
    nearest = Math.max(nearest, z);
    furthest = Math.min(furthest, z);
  }
  const away = Math.max((toRight + toLeft) / (2 * wide), (upwards + downwards) / (2 * high), nearest + 1e-6);
  const axis = right.multiplyScalar((toRight - toLeft) / 2).addScaledVector(up, (upwards - downwards) / 2);
  return {
    eye: axis.clone().addScaledVector(direction, away),
    target: axis.clone().addScaledVector(direction, (nearest + furthest) / 2),
    reach: away - furthest,
    free,
  };
}

/** How far the middle of what is free lies right of and above that of the view, in pixels. */
export const shiftOf = ({ left, top, foot }: Free): [number, number] => [left / 2, (foot - top) / 2];

/** Whether a place is drawn under one of the boxes in the upper left corner. */
function isUnder(
  places: ArrayLike<number>,
  direction: Vector3,
  view: Box,
  { eye, free }: Fitted,
  corner: Box[],
): boolean {
  const slope = slopeOf(view);
  const [right, up] = axesOf(direction);
  const [across, above] = shiftOf(free);
  const place = new Vector3();
  for (let i = 0; i < places.length; i += 3) {
    place.fromArray(places, i).sub(eye);
    const perPixel = -slope * place.dot(direction);
    const x = view.width / 2 + across + place.dot(right) / perPixel;
    const y = view.height / 2 - above - place.dot(up) / perPixel;
    if (corner.some(({ width, height }) => x < width && y < height)) return true;
  }
  return false;
}
