import { unpack } from "./packed";

/** The way from LOD0 down: any level of it is a prefix. */
export interface Descent {
  triangles: number;
  /** For each material its name and where its triangles begin and end; those that stay longest come first. */
  groups: { material: string; first: number; last: number }[];
  /** The node each node goes into, which has a smaller number; -1 where it stays. */
  parent: Int32Array;
  /** The step at which a node is gone. */
  goes: Uint32Array;
  nodesAt: Uint32Array;
  trianglesAt: Uint32Array;
  verticesAt: Uint32Array;
  /** Largest deviation from LOD0 in metres after each step. */
  largestAt: Float32Array;
  /** Mean distance in metres to the source's planes around the vertex of each step. */
  distance: Float32Array;
  corner: Uint32Array;
  died: Uint32Array;
  /** The step from which each triangle is there: 0, but for those that begin where a hole closes. */
  starts: Uint32Array;
  place: Float32Array;
  normal: Float32Array | null;
  uv: Float32Array | null;
}

/** Reads a descent's bytes; the arrays lie in them. */
export function parseDescent(buffer: ArrayBuffer): Descent {
  const { header, arrays } = unpack<Pick<Descent, "triangles" | "groups">>(buffer);
  return {
    normal: null,
    uv: null,
    starts: new Uint32Array(header.triangles),
    ...(arrays as unknown as Omit<Descent, "normal" | "uv" | "starts" | "triangles" | "groups">),
    triangles: header.triangles,
    groups: header.groups,
  };
}

/** The first step with no more than so many triangles; the last where there is none. Closing a hole adds a few. */
export function stepOfTriangles({ trianglesAt }: Descent, count: number): number {
  const at = trianglesAt.findIndex((left) => left <= count);
  return at < 0 ? trianglesAt.length - 1 : at;
}

/** Replays a descent to any step, into arrays that it keeps. */
export class Replay {
  readonly descent: Descent;
  /** For each group the corners of its triangles that are there, by node. */
  readonly index: Uint32Array;
  /** How many triangles of each group are there. */
  readonly counts: number[];
  /** Share of the largest distance at each node that is there, 0 to 1. */
  readonly heat: Float32Array;
  step = -1;
  private readonly goesTo: Uint32Array;

  constructor(descent: Descent) {
    this.descent = descent;
    this.index = new Uint32Array(descent.corner.length);
    this.counts = descent.groups.map(() => 0);
    this.heat = new Float32Array(descent.parent.length);
    this.goesTo = new Uint32Array(descent.parent.length);
  }

  /** Fills `index` and `counts` with the level after `step` collapses. */
  to(step: number): void {
    const { parent, nodesAt, corner, died, starts, groups } = this.descent;
    const there = nodesAt[step]!;
    const goesTo = this.goesTo;
    const n = parent.length;
    for (let i = 0; i < there; i += 1) goesTo[i] = i;
    // A parent comes before its children, so that where it went is known.
    for (let i = there; i < n; i += 1) goesTo[i] = parent[i]! < 0 ? i : goesTo[parent[i]!]!;
    groups.forEach(({ first, last }, g) => {
      let low = first;
      let high = last;
      while (low < high) {
        const middle = (low + high) >> 1;
        if (died[middle]! < step) high = middle;
        else low = middle + 1;
      }
      let at = 3 * first;
      for (let t = first; t < low; t += 1) {
        if (starts[t]! > step) continue;
        for (let c = 3 * t; c < 3 * t + 3; c += 1, at += 1) this.index[at] = goesTo[corner[c]!]!;
      }
      this.counts[g] = at / 3 - first;
    });
    this.step = step;
  }

  /** Fills `heat` for the level that was last replayed. */
  warm(): void {
    const { parent, nodesAt, goes, distance } = this.descent;
    const there = nodesAt[this.step]!;
    const { heat, goesTo } = this;
    heat.fill(0);
    let most = 0;
    for (let i = there; i < parent.length; i += 1) {
      const at = goesTo[i]!;
      const far = distance[goes[i]! - 1] ?? 0;
      if (far > heat[at]!) heat[at] = far;
      if (far > most && parent[i]! >= 0) most = far;
    }
    if (most > 0) for (let i = 0; i < there; i += 1) heat[i]! /= most;
  }
}
