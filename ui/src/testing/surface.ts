import type { Sheet } from "../surface/sheet";
import { makeSurface, type Surface } from "../surface/surface";

type Point = [number, number, number];

export interface Polygons {
  points: Point[];
  polygons: number[][];
  /** By polygon; 0 where there are none. */
  material?: number[];
  part?: number[];
  /** By polygon and corner, what an engine vertex has besides place and normal; the vertex itself where there is none. */
  attribute?: number[][];
}

/** A surface as the server would tell it: polygons cut into fans from their first corner, flat normals. */
export function surfaceOf({ points, polygons, material = [], part = [], attribute }: Polygons): Surface {
  const corners: { v: number; a: number; p: number }[] = [];
  polygons.forEach((polygon, p) => {
    for (let i = 1; i + 1 < polygon.length; i += 1)
      for (const at of [0, i, i + 1]) corners.push({ v: polygon[at]!, a: attribute?.[p]?.[at] ?? polygon[at]!, p });
  });
  const n = corners.length;
  const after = (c: number) => (c % 3 === 2 ? c - 2 : c + 1);
  const byEnds = new Map(corners.map(({ v }, c) => [`${v} ${corners[after(c)]!.v}`, c]));
  const sheet: Sheet = {
    triangles: n / 3,
    vertex: Uint32Array.from(corners, ({ v }) => v),
    attribute: Uint32Array.from(corners, ({ a }) => a),
    twin: Int32Array.from(corners, ({ v }, c) => byEnds.get(`${corners[after(c)]!.v} ${v}`) ?? -1),
    edge: new Uint8Array(n),
    polygon: Uint32Array.from({ length: n / 3 }, (_, t) => corners[3 * t]!.p),
    part: Uint32Array.from({ length: n / 3 }, (_, t) => part[corners[3 * t]!.p] ?? 0),
    flat: new Float32Array(n / 3).fill(1),
    fan: null,
    cut: null,
  };
  const positions = Float32Array.from(corners.flatMap(({ v }) => points[v]!));
  const materials = Uint16Array.from({ length: n / 3 }, (_, t) => material[corners[3 * t]!.p] ?? 0);
  const plain = makeSurface(sheet, positions, new Float32Array(3 * n), materials);
  const normals = new Float32Array(3 * n);
  for (let c = 0; c < n; c += 1)
    for (let k = 0; k < 3; k += 1) normals[3 * c + k] = plain.faces[3 * Math.floor(c / 3) + k]!;
  return { ...plain, normals };
}

/** A flat grid of quads in the XZ plane, facing up; vertex (i, j) has the number i * (across + 1) + j. */
export function grid(along: number, across: number, height: (i: number, j: number) => number = () => 0): Polygons {
  const points: Point[] = [];
  for (let i = 0; i <= along; i += 1) for (let j = 0; j <= across; j += 1) points.push([i, height(i, j), -j]);
  const polygons: number[][] = [];
  for (let i = 0; i < along; i += 1)
    for (let j = 0; j < across; j += 1) {
      const a = i * (across + 1) + j;
      polygons.push([a, a + across + 1, a + across + 2, a + 1]);
    }
  return { points, polygons };
}

/** A cube of side 2 about the origin, of six quads that face outward. */
export function cube(): Polygons {
  const points: Point[] = [];
  for (const x of [-1, 1]) for (const y of [-1, 1]) for (const z of [-1, 1]) points.push([x, y, z]);
  const polygons = [
    [0, 1, 3, 2],
    [4, 6, 7, 5],
    [0, 4, 5, 1],
    [2, 3, 7, 6],
    [0, 2, 6, 4],
    [1, 5, 7, 3],
  ];
  return { points, polygons };
}

/** The half-edge from one vertex to another. */
export function halfEdge({ sheet }: Surface, from: number, to: number): number {
  for (let c = 0; c < sheet.vertex.length; c += 1)
    if (sheet.vertex[c] === from && sheet.vertex[c % 3 === 2 ? c - 2 : c + 1] === to) return c;
  throw new Error(`no half-edge runs from ${from} to ${to}`);
}
