import { unpack } from "./packed";

/** How the triangles of LOD0 hang together, as the server tells it; all in the order of the GLB's triangles. */
export interface Sheet {
  triangles: number;
  /** Vertex of each corner, and the number of what else an engine vertex shares but the normal. */
  vertex: Uint32Array;
  attribute: Uint32Array;
  /** The half-edge on the other side, or -1. A half-edge has the number of the corner it starts at. */
  twin: Int32Array;
  edge: Uint8Array;
  polygon: Uint32Array;
  part: Uint32Array;
  flat: Float32Array;
  /** Corners of the triangles that an engine's own fans would have, in place of each polygon's own triangles. */
  fan: Uint32Array | null;
  cut: Uint8Array | null;
}

/** Bits of `edge`. */
export const OWN_HARD = 1;
export const MADE_HARD = 2;
export const MADE_SOFT = 4;

/** Bits of `cut`: the fan differs from the cut, flips, overlaps, leaves the outline, collapses. */
export const DIFFERS = 1;
export const BREAKS = 2 | 4 | 8;

/** Reads a sheet's bytes; the arrays lie in them. */
export function parseSheet(buffer: ArrayBuffer): Sheet {
  const { header, arrays } = unpack<{ triangles: number }>(buffer);
  return {
    fan: null,
    cut: null,
    ...(arrays as unknown as Omit<Sheet, "fan" | "cut" | "triangles">),
    triangles: header.triangles,
  };
}
