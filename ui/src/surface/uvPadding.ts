import { next } from "./surface";
import type { UvIslands } from "./uvs";

/** Nine numbers a triangle: bands of a width (in UVs) along the rims of islands, on their outer side, V up. */
export function paddingBands({ uvs, rim, turn }: UvIslands, width: number, height: number): Float32Array {
  const out = new Float32Array(18 * rim.length);
  rim.forEach((c, i) => {
    const d = next(c);
    const [ax, ay, bx, by] = [uvs[2 * c]!, 1 - uvs[2 * c + 1]!, uvs[2 * d]!, 1 - uvs[2 * d + 1]!];
    const length = Math.hypot(bx - ax, by - ay) || 1;
    // With V up what is seen as it is turns left: outside is on the right.
    const side = turn[Math.floor(c / 3)]! < 0 ? -1 : 1;
    const [nx, ny] = [((by - ay) / length) * width * side, (-(bx - ax) / length) * width * side];
    out.set([ax, ay, height, bx, by, height, bx + nx, by + ny, height], 18 * i);
    out.set([ax, ay, height, bx + nx, by + ny, height, ax + nx, ay + ny, height], 18 * i + 9);
  });
  return out;
}
