import type { LoadedLevel } from "./model";

export type NormalLines = "off" | "corner" | "face";

/** More lines than this say nothing to the eye: then every second, third … is drawn. */
const MOST = 120_000;

/** Short lines along the normals of a level: at each corner, or from the middle of each face. */
export function normalLines(level: LoadedLevel, kind: NormalLines, length: number): Float32Array {
  if (kind === "off") return new Float32Array();
  const out: number[] = [];
  const total = level.meshes.reduce(
    (sum, { mesh }) => sum + (mesh.geometry.getIndex()?.count ?? mesh.geometry.getAttribute("position").count),
    0,
  );
  const stride = Math.max(1, Math.ceil((kind === "corner" ? total : total / 3) / MOST));
  for (const { mesh } of level.meshes) {
    const positions = mesh.geometry.getAttribute("position");
    const normals = mesh.geometry.getAttribute("normal");
    const index = mesh.geometry.getIndex();
    const count = index ? index.count : positions.count;
    const at = (c: number): number => (index ? index.getX(c) : c);
    if (kind === "corner") {
      for (let c = 0; c < count; c += stride) {
        const v = at(c);
        const [x, y, z] = [positions.getX(v), positions.getY(v), positions.getZ(v)];
        out.push(x, y, z, x + length * normals.getX(v), y + length * normals.getY(v), z + length * normals.getZ(v));
      }
      continue;
    }
    for (let c = 0; c < count; c += 3 * stride) {
      const [a, b, d] = [at(c), at(c + 1), at(c + 2)];
      const p = [a, b, d].map((v) => [positions.getX(v), positions.getY(v), positions.getZ(v)] as const);
      const [u, w] = [[0, 1, 2].map((k) => p[1]![k]! - p[0]![k]!), [0, 1, 2].map((k) => p[2]![k]! - p[0]![k]!)];
      const n = [u[1]! * w[2]! - u[2]! * w[1]!, u[2]! * w[0]! - u[0]! * w[2]!, u[0]! * w[1]! - u[1]! * w[0]!];
      const size = Math.hypot(...n) || 1;
      const middle = [0, 1, 2].map((k) => (p[0]![k]! + p[1]![k]! + p[2]![k]!) / 3);
      out.push(...middle, ...middle.map((m, k) => m + (length * n[k]!) / size));
    }
  }
  return new Float32Array(out);
}
