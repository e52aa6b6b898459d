/**
 * A view of the game: so many lines over so many degrees from top to bottom. Distances are metres from the eye to the
 * middle of the prop, which reaches `radius` metres from there; what counts is its nearest place.
 */
export interface GameView {
  lines: number;
  angle: number;
  radius: number;
}

const slope = (view: GameView) => 2 * Math.tan((view.angle * Math.PI) / 360);

/** Pixels that a length in metres covers at most; infinite where the eye may be at it. */
export function pixelsOf(view: GameView, length: number, distance: number): number {
  const nearest = distance - view.radius;
  if (length <= 0) return 0;
  return nearest > 0 ? (length * view.lines) / (slope(view) * nearest) : Infinity;
}

/** Pixels that the whole prop covers. */
export function sizeInPixels(view: GameView, distance: number): number {
  return (2 * view.radius * view.lines) / (slope(view) * distance);
}

/** Metres from which a length covers so many pixels. */
export function distanceOf(view: GameView, length: number, pixels: number): number {
  return view.radius + (length * view.lines) / (slope(view) * pixels);
}

/** Degrees of a camera whose picture, so many pixels high, is the middle of the game's view at its true size. */
export function trueSizeAngle(view: GameView, height: number): number {
  return (2 * Math.atan((Math.tan((view.angle * Math.PI) / 360) * height) / view.lines) * 180) / Math.PI;
}
