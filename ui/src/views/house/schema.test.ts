import { expect, test } from "vitest";

import { groupsOf, labelOf, type Schema, shown, valueAt, withValue } from "./schema";

const schema: Schema = {
  properties: {
    name: { type: "string", description: "by which it is chosen" },
    format: { type: "string", enum: ["glb", "obj"], default: "glb" },
    max_materials: { anyOf: [{ type: "integer", minimum: 1 }, { type: "null" }], default: null },
    max_triangles: { type: "array", items: { type: "integer" }, default: [], unit: "tris" },
    textures: { $ref: "#/$defs/Textures" },
  },
  $defs: {
    Textures: {
      properties: {
        suffixes: { type: "object", propertyNames: { enum: ["color"] }, additionalProperties: { type: "string" } },
        codecs: {
          type: "object",
          propertyNames: { enum: ["color", "normal"] },
          additionalProperties: { enum: ["bc1", "bc7"] },
        },
        packings: { type: "array", items: { $ref: "#/$defs/Packing" } },
        largest: { type: "integer", minimum: 4, maximum: 16384, default: 8192, unit: "px" },
      },
    },
    Packing: { type: "object", properties: {} },
  },
};

test("a schema becomes rows with the control that each setting needs", () => {
  const rows = groupsOf("destination", schema).flatMap(({ fields }) => fields);
  expect(rows.map(({ path, widget }) => [path, widget])).toEqual([
    ["name", "text"],
    ["format", "choice"],
    ["max_triangles", "numbers"],
    ["max_materials", "number"],
    ["textures.suffixes", "map"],
    ["textures.codecs", "map"],
    ["textures.packings", "packings"],
    ["textures.largest", "number"],
  ]);
  const row = (path: string) => rows.find((one) => one.path === path);
  expect(row("max_materials")).toMatchObject({ nullable: true, limits: { low: 1, whole: true }, initial: null });
  expect(row("textures.codecs")).toMatchObject({ keys: ["color", "normal"], options: ["bc1", "bc7"] });
  expect(row("textures.largest")).toMatchObject({ unit: "px", limits: { low: 4, high: 16384, whole: true } });
});

test("a line's rows leave out what is made by hand on a prop", () => {
  const line: Schema = {
    properties: { normals: { $ref: "#/$defs/Normals" } },
    $defs: {
      Normals: {
        properties: { angle: { type: "number", unit: "°" }, hard: { type: "array", items: {}, by_hand: true } },
      },
    },
  };
  const groups = groupsOf("line", line);
  expect(groups.map(({ title, fields }) => [title, fields.map(({ path }) => path)])).toEqual([
    ["Normals", ["normals.angle"]],
  ]);
});

test("values are read and replaced by their path, and nothing else changes", () => {
  const data = { a: 1, b: { c: { d: 2 }, e: 3 } };
  expect(valueAt(data, "b.c.d")).toBe(2);
  expect(valueAt(data, "x.y")).toBeUndefined();
  const next = withValue(data, "b.c.d", 5);
  expect(next).toEqual({ a: 1, b: { c: { d: 5 }, e: 3 } });
  expect(data.b.c.d).toBe(2);
});

test("labels and values are told in words", () => {
  expect(labelOf("max_uv_channels")).toBe("Max UV channels");
  expect(labelOf("cleanup.weld_mm")).toBe("Weld");
  expect(shown([])).toBe("none");
  expect(shown([{ ratio: 0.5, triangles: null }, { triangles: 900 }])).toBe("50 % / 900 tris");
  expect(shown({ color: "bc7", normal: null })).toBe("color: bc7");
  expect([true, null, "", 4].map(shown)).toEqual(["yes", "none", "none", "4"]);
});
