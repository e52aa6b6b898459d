/** A view of the game: so many lines over so many degrees from top to bottom. */
export interface GameView {
  lines: number;
  angle: number;
}

const slope = (view: GameView) => 2 * Math.tan((view.angle * Math.PI) / 360);

/** Pixels that a length covers at a distance, both in metres. */
export function pixelsOf(view: GameView, length: number, distance: number): number {
  return length <= 0 ? 0 : (length * view.lines) / (slope(view) * Math.max(distance, 1e-9));
}

/** Metres from which a length covers so many pixels. */
export function distanceOf(view: GameView, length: number, pixels: number): number {
  return (length * view.lines) / (slope(view) * pixels);
}

/** Degrees of a camera whose picture, so many pixels high, is the middle of the game's view at its true size. */
export function trueSizeAngle(view: GameView, height: number): number {
  return (2 * Math.atan((Math.tan((view.angle * Math.PI) / 360) * height) / view.lines) * 180) / Math.PI;
}
