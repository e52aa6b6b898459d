import { next } from "./surface";

/** A UV channel of LOD0: what hangs together on the sheet, which way it turns and how it stretches. */
export interface UvIslands {
  /** Six numbers a triangle: U right, V down. */
  uvs: Float32Array;
  /** Island of each triangle, numbered by first appearance. */
  island: Uint32Array;
  count: number;
  /** Half-edges that bound their island. */
  rim: number[];
  /** 1 where a texture is seen as it is, -1 where it is mirrored, 0 without area. */
  turn: Int8Array;
  /** How many times coarser (above 1) or finer (below 1) the texture is than on the whole; NaN without area. */
  coarse: Float32Array;
  /** Largest over least stretch of each triangle, 1 at best; NaN without area. */
  skew: Float32Array;
}

/** The islands of a channel: triangles that share an edge on the surface and on the sheet. */
export function findIslands(uvs: Float32Array, positions: Float32Array, twin: Int32Array): UvIslands {
  const triangles = uvs.length / 6;
  const parent = Uint32Array.from({ length: triangles }, (_, t) => t);
  const root = (t: number): number => {
    let at = t;
    while (parent[at] !== at) at = parent[at] = parent[parent[at]!]!;
    return at;
  };
  const meets = (a: number, b: number): boolean => uvs[2 * a] === uvs[2 * b] && uvs[2 * a + 1] === uvs[2 * b + 1];
  const unite = (c: number, d: number): void => {
    const [a, b] = [root(Math.floor(c / 3)), root(Math.floor(d / 3))];
    if (a !== b) parent[Math.max(a, b)] = Math.min(a, b);
  };
  const open: number[] = [];
  for (let c = 0; c < 3 * triangles; c += 1) {
    const d = twin[c]!;
    if (d < 0 || !meets(c, next(d)) || !meets(next(c), d)) open.push(c);
    else unite(c, d);
  }
  const rim = uniteTouching(open, uvs, positions, unite);
  const island = new Uint32Array(triangles);
  const number = new Map<number, number>();
  for (let t = 0; t < triangles; t += 1) {
    const at = root(t);
    if (!number.has(at)) number.set(at, number.size);
    island[t] = number.get(at)!;
  }
  return { uvs, island, count: number.size, rim, ...measure(uvs, positions) };
}

const single = new Float32Array(1);
const bits = new Int32Array(single.buffer);

/** A whole number for some of single precision, the same for the same. */
function hashed(values: number[]): number {
  let hash = 0;
  for (const value of values) {
    // What is -0 is 0.
    single[0] = value + 0;
    hash = Math.imul(hash ^ bits[0]!, 0x9e3779b1);
    hash ^= hash >>> 15;
  }
  return hash;
}

/** Of half-edges without a twin those that no other touches on the surface and on the sheet; the others are united. */
function uniteTouching(
  open: number[],
  uvs: Float32Array,
  positions: Float32Array,
  unite: (c: number, d: number) => void,
): number[] {
  const values = (c: number): number[] => [...positions.subarray(3 * c, 3 * c + 3), ...uvs.subarray(2 * c, 2 * c + 2)];
  const meets = (c: number, d: number): boolean => {
    const [one, two] = [values(c), values(d)];
    return one.every((value, k) => value === two[k]);
  };
  const touch = (c: number, d: number): boolean =>
    (meets(c, next(d)) && meets(next(c), d)) || (meets(c, d) && meets(next(c), next(d)));
  // Which way an edge runs does not matter. What shares a number is compared: few do.
  const numbered = new Map<number, number[]>();
  const touched = new Set<number>();
  for (const c of open) {
    const number = hashed(values(c)) + hashed(values(next(c)));
    const alike = numbered.get(number);
    if (!alike) numbered.set(number, [c]);
    else {
      const other = alike.find((d) => touch(c, d));
      if (other === undefined) alike.push(c);
      else {
        unite(other, c);
        touched.add(other).add(c);
      }
    }
  }
  return open.filter((c) => !touched.has(c));
}

function measure(uvs: Float32Array, positions: Float32Array): Pick<UvIslands, "turn" | "coarse" | "skew"> {
  const triangles = uvs.length / 6;
  const turn = new Int8Array(triangles);
  const coarse = new Float32Array(triangles).fill(NaN);
  const skew = new Float32Array(triangles).fill(NaN);
  let flatWhole = 0;
  let surfaceWhole = 0;
  for (let t = 0; t < triangles; t += 1) {
    const [x, y, u, v] = [
      uvs[6 * t + 2]! - uvs[6 * t]!,
      uvs[6 * t + 3]! - uvs[6 * t + 1]!,
      uvs[6 * t + 4]! - uvs[6 * t]!,
      uvs[6 * t + 5]! - uvs[6 * t + 1]!,
    ];
    const double = x * v - y * u;
    // V runs down: what turns right there is seen as it is.
    turn[t] = -Math.sign(double);
    let [a, b, c] = [0, 0, 0];
    for (let k = 0; k < 3; k += 1) {
      const one = positions[9 * t + 3 + k]! - positions[9 * t + k]!;
      const two = positions[9 * t + 6 + k]! - positions[9 * t + k]!;
      const [byU, byV] = [(one * v - two * y) / double, (two * x - one * u) / double];
      a += byU * byU;
      b += byU * byV;
      c += byV * byV;
    }
    const area = 0.5 * Math.abs(double) * Math.sqrt(Math.max(a * c - b * b, 0));
    if (!double || !(area > 0)) continue;
    const spread = Math.sqrt((a - c) ** 2 + 4 * b * b);
    skew[t] = Math.sqrt((a + c + spread) / Math.max(a + c - spread, 1e-30));
    coarse[t] = Math.sqrt(area / (0.5 * Math.abs(double)));
    flatWhole += 0.5 * Math.abs(double);
    surfaceWhole += area;
  }
  const whole = Math.sqrt(surfaceWhole / Math.max(flatWhole, 1e-30));
  for (let t = 0; t < triangles; t += 1) coarse[t]! /= whole;
  return { turn, coarse, skew };
}

/** The triangle of a channel under a place on the sheet, the last that was drawn; -1 where there is none. */
function triangleAt({ uvs }: UvIslands, u: number, v: number): number {
  for (let t = uvs.length / 6 - 1; t >= 0; t -= 1) {
    const p = 6 * t;
    const side = (i: number, j: number): number =>
      (uvs[p + j]! - uvs[p + i]!) * (v - uvs[p + i + 1]!) - (uvs[p + j + 1]! - uvs[p + i + 1]!) * (u - uvs[p + i]!);
    const [a, b, c] = [side(0, 2), side(2, 4), side(4, 0)];
    if ((a >= 0 && b >= 0 && c >= 0) || (a <= 0 && b <= 0 && c <= 0)) if (a || b || c) return t;
  }
  return -1;
}

/** The island of the triangle under a place on the sheet; null where there is none. */
export function islandAt(channel: UvIslands, u: number, v: number): number | null {
  const t = triangleAt(channel, u, v);
  return t < 0 ? null : channel.island[t]!;
}

/** The island of a triangle. */
export const islandOf = (channel: UvIslands, triangle: number): number => channel.island[triangle] ?? 0;

/** The triangles of one island. */
export function trianglesOf(channel: UvIslands, island: number): number[] {
  const found: number[] = [];
  channel.island.forEach((own, t) => {
    if (own === island) found.push(t);
  });
  return found;
}

/** Three numbers a corner: where the sheet is drawn, V up, at one height. */
export function sheetPlaces(uvs: Float32Array, height: number): Float32Array {
  const out = new Float32Array((uvs.length / 2) * 3);
  for (let c = 0; c < uvs.length / 2; c += 1) {
    out[3 * c] = uvs[2 * c]!;
    out[3 * c + 1] = 1 - uvs[2 * c + 1]!;
    out[3 * c + 2] = height;
  }
  return out;
}
