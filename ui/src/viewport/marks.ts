import { Matrix4, Vector3 } from "three";

import { next, type Surface } from "../surface/surface";
import { polygonTriangles } from "../surface/select";

export type Point = [number, number, number];
export type EdgeMark = [Point, Point];
export interface SpotMark {
  point: Point;
  facing: Point;
}

const digits = (values: number[]): Point => values.map((value) => Number(value.toPrecision(9))) as Point;

/** Marks lie in the source's units and axes, the surface in metres: this leads from one to the other. */
export class MarkPlaces {
  private readonly matrix = new Matrix4();
  private readonly inverse: Matrix4;
  private readonly grid = new Map<string, number[]>();
  private readonly cell: number;

  constructor(
    private readonly surface: Surface,
    matrix: number[] | undefined,
    radius: number,
  ) {
    if (matrix?.length === 16) this.matrix.set(...(matrix as Parameters<Matrix4["set"]>));
    this.inverse = this.matrix.clone().invert();
    this.cell = Math.max(radius * 1e-3, 1e-9);
    const { start, corners, positions } = surface;
    for (let v = 0; v + 1 < start.length; v += 1) {
      if (start[v] === start[v + 1]) continue;
      const c = 3 * corners[start[v]!]!;
      const key = this.key([positions[c]!, positions[c + 1]!, positions[c + 2]!], [0, 0, 0]);
      const there = this.grid.get(key);
      if (there) there.push(v);
      else this.grid.set(key, [v]);
    }
  }

  /** An edge of the surface as a mark. */
  edge(c: number): EdgeMark {
    return [this.toSource(this.corner(c)), this.toSource(this.corner(next(c)))];
  }

  /** The diagonal between two corners as a mark. */
  diagonal(a: number, b: number): EdgeMark {
    return [this.toSource(this.corner(a)), this.toSource(this.corner(b))];
  }

  /** The face that a triangle was cut from, as a mark: the mean of its corners and the side it faces. */
  spot(t: number): SpotMark {
    const seen = new Map<number, Point>();
    for (const u of polygonTriangles(this.surface, t))
      for (let c = 3 * u; c < 3 * u + 3; c += 1) seen.set(this.surface.sheet.vertex[c]!, this.corner(c));
    const middle = [0, 1, 2].map((k) => [...seen.values()].reduce((sum, p) => sum + p[k]!, 0) / seen.size) as Point;
    const { faces } = this.surface;
    const facing = new Vector3(faces[3 * t], faces[3 * t + 1], faces[3 * t + 2]).transformDirection(this.inverse);
    return { point: this.toSource(middle), facing: digits(facing.toArray()) };
  }

  /** What an edge mark is called here: its two vertices; null where it has no place on this surface. */
  keyOf([a, b]: EdgeMark): string | null {
    const [u, v] = [this.vertexAt(a), this.vertexAt(b)];
    return u === null || v === null ? null : edgeKey(u, v);
  }

  keyOfEdge(c: number): string {
    const { vertex } = this.surface.sheet;
    return edgeKey(vertex[c]!, vertex[next(c)]!);
  }

  /** How far apart two places of the source are, in metres. */
  distance(a: Point, b: Point): number {
    return new Vector3(...a).applyMatrix4(this.matrix).distanceTo(new Vector3(...b).applyMatrix4(this.matrix));
  }

  private vertexAt(point: Point): number | null {
    const place = new Vector3(...point).applyMatrix4(this.matrix).toArray();
    const { start, corners, positions } = this.surface;
    let best: number | null = null;
    let least = this.cell;
    for (let i = 0; i < 27; i += 1) {
      for (const v of this.grid.get(
        this.key(place, [(i % 3) - 1, (Math.floor(i / 3) % 3) - 1, Math.floor(i / 9) - 1]),
      ) ?? []) {
        const c = 3 * corners[start[v]!]!;
        const off = Math.hypot(positions[c]! - place[0], positions[c + 1]! - place[1], positions[c + 2]! - place[2]);
        if (off < least) {
          least = off;
          best = v;
        }
      }
    }
    return best;
  }

  private key(place: number[], step: number[]): string {
    return place.map((x, k) => Math.floor(x / this.cell) + step[k]!).join(" ");
  }

  private corner(c: number): Point {
    const { positions } = this.surface;
    return [positions[3 * c]!, positions[3 * c + 1]!, positions[3 * c + 2]!];
  }

  private toSource(point: Point): Point {
    return digits(new Vector3(...point).applyMatrix4(this.inverse).toArray());
  }
}

const edgeKey = (u: number, v: number): string => (u < v ? `${u} ${v}` : `${v} ${u}`);
