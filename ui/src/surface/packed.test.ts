import { expect, test } from "vitest";

import { unpack } from "./packed";

/** The bytes that the server writes: the header's length, the header, and the arrays, each padded to four bytes. */
function packed(header: object, arrays: Record<string, Uint8Array | Uint32Array | Int32Array | Float32Array>) {
  const types = { Uint8Array: "uint8", Uint32Array: "uint32", Int32Array: "int32", Float32Array: "float32" } as const;
  const rows = Object.entries(arrays).map(([name, values]) => ({
    name,
    type: types[values.constructor.name as keyof typeof types],
    length: values.length,
  }));
  let head = JSON.stringify({ ...header, arrays: rows });
  head += " ".repeat((4 - (new TextEncoder().encode(head).length % 4)) % 4);
  const bytes = new TextEncoder().encode(head);
  const out = [...new Uint8Array(Uint32Array.of(bytes.length).buffer), ...bytes];
  for (const values of Object.values(arrays)) {
    out.push(...new Uint8Array(values.buffer, values.byteOffset, values.byteLength));
    while (out.length % 4) out.push(0);
  }
  return Uint8Array.from(out).buffer;
}

test("arrays come back by name and type, whatever stands before them", () => {
  const arrays = {
    odd: Uint8Array.of(1, 2, 3),
    place: Float32Array.of(0.5, -1.25),
    none: new Float32Array(0),
    parent: Int32Array.of(-1, 0, 7),
    goes: Uint32Array.of(4_000_000_000),
  };
  const found = unpack<{ triangles: number; name: string }>(packed({ triangles: 7, name: "Schäkel" }, arrays));
  expect(found.header).toMatchObject({ triangles: 7, name: "Schäkel" });
  for (const [name, values] of Object.entries(arrays)) {
    const read = found.arrays[name] as typeof values;
    expect(read.constructor.name, name).toBe(values.constructor.name);
    expect([...read], name).toEqual([...values]);
  }
});

test("the arrays lie in the bytes themselves: nothing is copied", () => {
  const buffer = packed({}, { place: Float32Array.of(1, 2, 3) });
  const place = unpack(buffer).arrays.place as Float32Array;
  expect(place.buffer).toBe(buffer);
  place[1] = 9;
  expect([...(unpack(buffer).arrays.place as Float32Array)]).toEqual([1, 9, 3]);
});

test("bytes that are cut off are refused, not half read", () => {
  const buffer = packed({}, { place: Float32Array.of(1, 2, 3) });
  expect(() => unpack(buffer.slice(0, buffer.byteLength - 4))).toThrow();
  expect(() => unpack(buffer.slice(0, 6))).toThrow();
});
