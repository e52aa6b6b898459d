import type { Sheet } from "./sheet";

/** LOD0 as flat arrays: corners of triangles one after another, with what hangs together by the sheet. */
export interface Surface {
  sheet: Sheet;
  triangles: number;
  /** Nine numbers a triangle. */
  positions: Float32Array;
  /** The normals as they ship. */
  normals: Float32Array;
  material: Uint16Array;
  /** Unit normal of each triangle, three numbers; zero where it has no area. */
  faces: Float32Array;
  /** Fold in degrees at each half-edge: NaN without a twin, 0 within a polygon. */
  fold: Float32Array;
  /** Corners of each vertex: `corners[start[v]] … corners[start[v + 1] - 1]`. */
  start: Uint32Array;
  corners: Uint32Array;
}

/** The corner after `c` around its triangle. */
export const next = (c: number): number => (c % 3 === 2 ? c - 2 : c + 1);
export const before = (c: number): number => (c % 3 === 0 ? c + 2 : c - 1);

/** Unit normals of triangles. */
function faceNormals(positions: Float32Array): Float32Array {
  const out = new Float32Array(positions.length / 3);
  for (let t = 0, p = 0; p < positions.length; t += 3, p += 9) {
    const ux = positions[p + 3]! - positions[p]!;
    const uy = positions[p + 4]! - positions[p + 1]!;
    const uz = positions[p + 5]! - positions[p + 2]!;
    const vx = positions[p + 6]! - positions[p]!;
    const vy = positions[p + 7]! - positions[p + 1]!;
    const vz = positions[p + 8]! - positions[p + 2]!;
    const x = uy * vz - uz * vy;
    const y = uz * vx - ux * vz;
    const z = ux * vy - uy * vx;
    const length = Math.sqrt(x * x + y * y + z * z) || Infinity;
    out[t] = x / length;
    out[t + 1] = y / length;
    out[t + 2] = z / length;
  }
  return out;
}

/** Builds a surface from the corners of LOD0; throws where the sheet is of another mesh. */
export function makeSurface(
  sheet: Sheet,
  positions: Float32Array,
  normals: Float32Array,
  material: Uint16Array,
): Surface {
  if (positions.length !== 9 * sheet.triangles)
    throw new Error("the model and what is known of it do not belong together");
  const faces = faceNormals(positions);
  const n = 3 * sheet.triangles;
  const fold = new Float32Array(n);
  for (let c = 0; c < n; c += 1) {
    const d = sheet.twin[c]!;
    if (d < 0) {
      fold[c] = NaN;
      continue;
    }
    const t = Math.floor(c / 3);
    const u = Math.floor(d / 3);
    if (sheet.polygon[t] === sheet.polygon[u]) continue;
    if (d < c) {
      fold[c] = fold[d]!;
      continue;
    }
    const [ax, ay, az] = [faces[3 * t]!, faces[3 * t + 1]!, faces[3 * t + 2]!];
    const [bx, by, bz] = [faces[3 * u]!, faces[3 * u + 1]!, faces[3 * u + 2]!];
    if ((!ax && !ay && !az) || (!bx && !by && !bz)) continue;
    const [x, y, z] = [ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx];
    fold[c] = (Math.atan2(Math.sqrt(x * x + y * y + z * z), ax * bx + ay * by + az * bz) * 180) / Math.PI;
  }
  let vertices = 0;
  for (let c = 0; c < n; c += 1) vertices = Math.max(vertices, sheet.vertex[c]! + 1);
  const start = new Uint32Array(vertices + 1);
  for (let c = 0; c < n; c += 1) start[sheet.vertex[c]! + 1]! += 1;
  for (let v = 0; v < vertices; v += 1) start[v + 1]! += start[v]!;
  const corners = new Uint32Array(n);
  const slot = start.slice(0, vertices);
  for (let c = 0; c < n; c += 1) {
    const v = sheet.vertex[c]!;
    corners[slot[v]!] = c;
    slot[v]! += 1;
  }
  return { sheet, triangles: sheet.triangles, positions, normals, material, faces, fold, start, corners };
}

/** One half-edge of each edge between two polygons, or on a border. */
export function isOutline(surface: Surface, c: number): boolean {
  const d = surface.sheet.twin[c]!;
  if (d < 0) return true;
  return d > c && surface.sheet.polygon[Math.floor(c / 3)] !== surface.sheet.polygon[Math.floor(d / 3)];
}

/** Whether an edge lies inside a polygon: where it was cut. */
export function isCut(surface: Surface, c: number): boolean {
  const d = surface.sheet.twin[c]!;
  return d >= 0 && surface.sheet.polygon[Math.floor(c / 3)] === surface.sheet.polygon[Math.floor(d / 3)];
}

/** Whether the shipped normals run on across a half-edge, at both ends. */
export function runsOn(surface: Surface, c: number): boolean {
  const d = surface.sheet.twin[c]!;
  if (d < 0) return false;
  return sameNormal(surface.normals, c, next(d)) && sameNormal(surface.normals, next(c), d);
}

const SAME = Math.cos((0.5 * Math.PI) / 180);

function sameNormal(normals: Float32Array, a: number, b: number): boolean {
  const i = 3 * a;
  const j = 3 * b;
  return normals[i]! * normals[j]! + normals[i + 1]! * normals[j + 1]! + normals[i + 2]! * normals[j + 2]! >= SAME;
}

/** Positions of half-edges as line segments, six numbers each. */
export function segments(surface: Surface, halfEdges: Iterable<number>): Float32Array {
  const out: number[] = [];
  for (const c of halfEdges) {
    for (const corner of [c, next(c)]) {
      for (let k = 0; k < 3; k += 1) out.push(surface.positions[3 * corner + k]!);
    }
  }
  return new Float32Array(out);
}
