const TYPES = { uint32: Uint32Array, int32: Int32Array, float32: Float32Array, uint8: Uint8Array } as const;

interface Header {
  arrays: { name: string; type: keyof typeof TYPES; length: number }[];
}

/** Reads arrays in one piece of bytes: what the header says, and the arrays by name, which lie in the bytes. */
export function unpack<H extends object>(buffer: ArrayBuffer): { header: H; arrays: Record<string, unknown> } {
  const length = new DataView(buffer).getUint32(0, true);
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length))) as H & Header;
  const arrays: Record<string, unknown> = {};
  let offset = 4 + length;
  for (const { name, type, length: count } of header.arrays) {
    const array = new TYPES[type](buffer, offset, count);
    arrays[name] = array;
    offset += Math.ceil(array.byteLength / 4) * 4;
  }
  return { header, arrays };
}
