import { fireEvent, render, screen } from "@testing-library/react";
import { expect, test, vi } from "vitest";

import { choose, press, type } from "../../testing/station";
import { groupsOf, type Kind, type Schema } from "./schema";
import { SchemaField } from "./SchemaField";
import { TargetsField } from "./TargetsField";

/** The control of the one setting that a schema of a destination tells, with what it decides. */
function field(setting: Schema, value: unknown, { kind = "destination", name = "max_materials" } = {}) {
  const groups = groupsOf(kind as Kind, { properties: { [name]: setting } });
  const [spec] = groups.flatMap(({ fields }) => fields);
  if (!spec) throw new Error(`no row for ${name}`);
  const decided = vi.fn();
  const { rerender } = render(<SchemaField spec={spec} value={value} onChange={decided} />);
  const again = (next: unknown) => rerender(<SchemaField spec={spec} value={next} onChange={decided} />);
  return { decided, again, shown: () => (screen.getByLabelText(spec.label) as HTMLInputElement).value };
}

const optional = { anyOf: [{ type: "integer", minimum: 1, maximum: 64 }, { type: "null" }] };

test.each([
  ["12", 12],
  ["2,6", 3],
  ["-4", 1],
  ["900", 64],
  ["", null],
])("a limit that is typed as '%s' is %s", (text, number) => {
  const { decided } = field(optional, 8);
  type("Max materials", text);
  expect(decided).toHaveBeenCalledExactlyOnceWith(number);
});

test("what is no number decides nothing, and the limit that holds stands there again", () => {
  const { decided, shown } = field(optional, 8);
  type("Max materials", "a few");
  expect(decided).not.toHaveBeenCalled();
  expect(shown()).toBe("8");
});

test("no limit is an empty field, and stays one", () => {
  const { decided, shown } = field(optional, null);
  expect(shown()).toBe("");
  type("Max materials", "  ");
  expect(decided).not.toHaveBeenCalled();
  expect(shown()).toBe("");
});

test("a number that must be one is put back where it is emptied", () => {
  const { decided, shown } = field({ type: "number", exclusiveMinimum: 0, unit: "m" }, 0.5, { name: "scale" });
  for (const nothing of ["", "0", "-2"]) {
    type("Scale", nothing);
    expect(shown()).toBe("0.5");
  }
  expect(decided).not.toHaveBeenCalled();
  type("Scale", "0,01");
  expect(decided).toHaveBeenCalledExactlyOnceWith(0.01);
  expect(screen.getByText("m")).toBeTruthy();
});

test("words are told apart by commas and by spaces, and none is an empty list", () => {
  const { decided, again } = field({ type: "array", items: { type: "string" } }, ["a"], { name: "stops" });
  type("Findings that stop", " uv-folded,, level-deviates  normals-missing ");
  expect(decided).toHaveBeenLastCalledWith(["uv-folded", "level-deviates", "normals-missing"]);
  again(["uv-folded"]);
  type("Findings that stop", "");
  expect(decided).toHaveBeenLastCalledWith([]);
});

test("a row of numbers with one that is none decides nothing, and is put back", () => {
  const { decided, shown } = field({ type: "array", items: { type: "integer" } }, [2048, 1024], {
    name: "max_triangles",
  });
  expect(screen.getByDisplayValue("2048, 1024")).toBeTruthy();
  type("Max triangles", "4096, many, 512");
  expect(shown()).toBe("2048, 1024");
  expect(decided).not.toHaveBeenCalled();
  type("Max triangles", "4096 512");
  expect(decided).toHaveBeenCalledExactlyOnceWith([4096, 512]);
});

test("a choice among numbers decides a number, and one that may be none has it among its choices", () => {
  const first = field({ enum: [0, 1], default: 0 }, 0, { name: "first_level" });
  choose("First level", "1");
  expect(first.decided).toHaveBeenCalledExactlyOnceWith(1);
});

test("none of a choice decides that there is none", () => {
  const { decided } = field({ anyOf: [{ enum: ["cw", "ccw"] }, { type: "null" }] }, "cw", { name: "winding" });
  choose("Winding", "none");
  expect(decided).toHaveBeenCalledExactlyOnceWith(null);
});

test("a map keeps its other keys, and loses one that is emptied", () => {
  const setting = {
    type: "object",
    propertyNames: { enum: ["color", "normal"] },
    additionalProperties: { type: "string" },
  };
  const { decided, again } = field(setting, { color: "BC1" }, { name: "tangents" });
  type("Tangents: normal", "BC5");
  expect(decided).toHaveBeenLastCalledWith({ color: "BC1", normal: "BC5" });
  again({ color: "BC1", normal: "BC5" });
  type("Tangents: color", "");
  expect(decided).toHaveBeenLastCalledWith({ normal: "BC5" });
});

test("a map of choices goes back to what is needed", () => {
  const setting = {
    type: "object",
    propertyNames: { enum: ["color"] },
    additionalProperties: { enum: ["BC1", "BC7"] },
  };
  const { decided, again } = field(setting, {}, { name: "normals" });
  choose("Normals: color", "BC7");
  expect(decided).toHaveBeenLastCalledWith({ color: "BC7" });
  again({ color: "BC7" });
  choose("Normals: color", "as it needs");
  expect(decided).toHaveBeenLastCalledWith({});
});

test("a table is typed as JSON: what is none is told and not decided, and what is put back is told no longer", () => {
  const { decided, shown } = field({ type: "object", properties: {} }, { a: 1 }, { name: "hierarchy" });
  const was = shown();
  type("Hierarchy", "{a: 1}");
  expect(screen.getByRole("alert").textContent).toMatch(/^this is no JSON: /);
  type("Hierarchy", was);
  expect(screen.queryByRole("alert")).toBeNull();
  expect(decided).not.toHaveBeenCalled();
  type("Hierarchy", '{"a": 2}');
  expect(decided).toHaveBeenCalledExactlyOnceWith({ a: 2 });
});

test("text rests before it is decided, and empty text is none where there may be none", () => {
  vi.useFakeTimers();
  const { decided } = field({ anyOf: [{ type: "string" }, { type: "null" }] }, "_hi", { name: "lod0_suffix" });
  fireEvent.change(screen.getByLabelText("LOD0 suffix"), { target: { value: "" } });
  expect(decided).not.toHaveBeenCalled();
  vi.runAllTimers();
  expect(decided).toHaveBeenCalledExactlyOnceWith(null);
  vi.useRealTimers();
});

test("levels of a line: each has one measure, a new one has half of the last, and one can go", () => {
  const decided = vi.fn();
  const rows = [{ ratio: 0.5 }, { ratio: null, triangles: 400 }];
  const { rerender } = render(<TargetsField value={rows} onChange={decided} />);
  type("Target of LOD1", "30");
  expect(decided).toHaveBeenLastCalledWith([{ ratio: 0.3 }, rows[1]]);
  type("Target of LOD2", "250");
  expect(decided).toHaveBeenLastCalledWith([rows[0], { ratio: null, triangles: 250 }]);
  choose("Measure of LOD2", "px error");
  expect(decided).toHaveBeenLastCalledWith([rows[0], { ratio: null, triangles: null, pixels: 1 }]);
  press("Add a level");
  expect(decided, "after one of another measure it is half of LOD0").toHaveBeenLastCalledWith([
    ...rows,
    { ratio: 0.5 },
  ]);
  press("Remove LOD2");
  expect(decided).toHaveBeenLastCalledWith([rows[0]]);
  rerender(<TargetsField value={[{ ratio: 0.5 }, { ratio: 0.2 }]} onChange={decided} />);
  press("Add a level");
  expect(decided).toHaveBeenLastCalledWith([{ ratio: 0.5 }, { ratio: 0.2 }, { ratio: 0.1 }]);
});
