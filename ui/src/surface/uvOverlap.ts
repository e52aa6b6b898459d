import type { UvIslands } from "./uvs";

/** Pixels along a side of the raster on which it is found what lies on what. */
const GRID = 1024;

/** Where a pixel is asked: just beside its middle, which may lie on a side that two triangles share. */
const [BESIDE_X, BESIDE_Y] = [0.5003, 0.50017];

/** Calls `visit` with each pixel, wrapped into the square, whose middle lies in a triangle; its own middle where none does. */
function pixelsOf(uvs: Float32Array, t: number, visit: (pixel: number) => void): void {
  const at = (k: number): [number, number] => [uvs[6 * t + 2 * k]! * GRID, uvs[6 * t + 2 * k + 1]! * GRID];
  const [a, b, c] = [at(0), at(1), at(2)];
  const wrap = (x: number, y: number): number => (((y % GRID) + GRID) % GRID) * GRID + (((x % GRID) + GRID) % GRID);
  const side = (p: [number, number], q: [number, number], x: number, y: number): number =>
    (q[0] - p[0]) * (y - p[1]) - (q[1] - p[1]) * (x - p[0]);
  const turn = Math.sign(side(a, b, c[0], c[1]));
  if (!turn || ![...a, ...b, ...c].every(Number.isFinite)) return;
  let found = false;
  const [low, high] = [Math.min(a[1], b[1], c[1]), Math.max(a[1], b[1], c[1])];
  const [left, right] = [Math.min(a[0], b[0], c[0]), Math.max(a[0], b[0], c[0])];
  if ((right - left) * (high - low) > 16 * GRID * GRID) return;
  for (let y = Math.ceil(low - 0.5); y + 0.5 < high; y += 1) {
    for (let x = Math.ceil(left - 0.5); x + 0.5 < right; x += 1) {
      if (
        [
          side(a, b, x + BESIDE_X, y + BESIDE_Y),
          side(b, c, x + BESIDE_X, y + BESIDE_Y),
          side(c, a, x + BESIDE_X, y + BESIDE_Y),
        ].some((s) => s * turn < 0)
      )
        continue;
      found = true;
      visit(wrap(x, y));
    }
  }
  if (!found) visit(wrap(Math.floor((a[0] + b[0] + c[0]) / 3), Math.floor((a[1] + b[1] + c[1]) / 3)));
}

const known = new WeakMap<Float32Array, Float32Array>();

/** Share of each triangle that lies on others or under them, to within a pixel of the raster. */
export function overlapShares({ uvs }: UvIslands): Float32Array {
  const there = known.get(uvs);
  if (there) return there;
  const triangles = uvs.length / 6;
  const layers = new Uint16Array(GRID * GRID);
  // Pixels of two neighbours whose middles lie on their common side count once.
  const last = new Int32Array(GRID * GRID).fill(-1);
  for (let t = 0; t < triangles; t += 1)
    pixelsOf(uvs, t, (pixel) => {
      if (last[pixel] !== t) layers[pixel]! += 1;
      last[pixel] = t;
    });
  const shares = new Float32Array(triangles);
  for (let t = 0; t < triangles; t += 1) {
    let [all, covered] = [0, 0];
    pixelsOf(uvs, t, (pixel) => {
      all += 1;
      if (layers[pixel]! > 1) covered += 1;
    });
    // A triangle of a pixel or two shares it with its neighbours.
    shares[t] = all > 2 ? covered / all : 0;
  }
  known.set(uvs, shares);
  return shares;
}
