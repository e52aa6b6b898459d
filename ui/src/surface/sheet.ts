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

const TYPES = { uint32: Uint32Array, int32: Int32Array, float32: Float32Array, uint8: Uint8Array } as const;

interface Header {
  triangles: number;
  arrays: { name: string; type: keyof typeof TYPES; length: number }[];
}

/** Reads a sheet's bytes; the arrays lie in them. */
export function parseSheet(buffer: ArrayBuffer): Sheet {
  const length = new DataView(buffer).getUint32(0, true);
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length))) as Header;
  const arrays: Record<string, unknown> = { fan: null, cut: null };
  let offset = 4 + length;
  for (const { name, type, length: count } of header.arrays) {
    const array = new TYPES[type](buffer, offset, count);
    arrays[name] = array;
    offset += Math.ceil(array.byteLength / 4) * 4;
  }
  return { ...(arrays as unknown as Sheet), triangles: header.triangles };
}
