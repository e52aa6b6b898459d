import { next, type Surface } from "./surface";

/** Edges drawn as a chart draws a cliff: long ones as a line with ticks, the others as a strong line. */
export interface Cliffs {
  lines: Float32Array;
  ticks: Float32Array;
  strong: Float32Array;
}

type Vector = [number, number, number];

const minus = (a: Vector, b: Vector): Vector => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const along = (a: Vector, d: Vector, t: number): Vector => [a[0] + t * d[0], a[1] + t * d[1], a[2] + t * d[2]];
const dot = (a: Vector, b: Vector): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];

/** Share of a triangle's height that a tick may take at most. */
const WITHIN = 0.4;

/** The cliffs of some half-edges; ticks stand `spacing` metres apart, on the side of the half-edge's own triangle. */
export function cliffsOf(surface: Surface, edges: Iterable<number>, spacing: number): Cliffs {
  const { positions } = surface;
  const corner = (c: number): Vector => [positions[3 * c]!, positions[3 * c + 1]!, positions[3 * c + 2]!];
  const lines: number[] = [];
  const ticks: number[] = [];
  const strong: number[] = [];
  for (const c of edges) {
    const [a, b, apex] = [corner(c), corner(next(c)), corner(next(next(c)))];
    const run = minus(b, a);
    const length = Math.sqrt(dot(run, run));
    const count = Math.floor(length / spacing);
    if (count < 1) {
      strong.push(...a, ...b);
      continue;
    }
    lines.push(...a, ...b);
    const toApex = minus(apex, a);
    const inward = along(toApex, run, -dot(toApex, run) / (length * length));
    const height = Math.sqrt(dot(inward, inward));
    if (height === 0) continue;
    const reach = Math.min(0.4 * spacing, WITHIN * height) / height;
    for (let i = 0; i < count; i += 1) {
      const foot = along(a, run, (i + 0.5) / count);
      ticks.push(...foot, ...along(foot, inward, reach));
    }
  }
  return { lines: new Float32Array(lines), ticks: new Float32Array(ticks), strong: new Float32Array(strong) };
}
