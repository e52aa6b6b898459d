import { expect, test } from "vitest";

import { namesAt, switchLabels } from "./switchLabels";

/** What each switch is called and where that stands, LOD0's left out. */
const told = (...places: number[]) =>
  switchLabels([52, ...places])
    .map((label, level) => label && `${namesAt(label.first, level)} ${label.side}`)
    .slice(1);

test("with room each label stands right of its switch", () => {
  expect(told(200, 400, 600)).toEqual(["LOD1 right", "LOD2 right", "LOD3 right"]);
});

test("one that another follows closely stands left of it, or below where the left is taken", () => {
  expect(told(200, 230, 600)).toEqual(["LOD1 left", "LOD2 right", "LOD3 right"]);
  expect(told(200, 230, 260)).toEqual(["LOD1 left", "LOD2 below", "LOD3 right"]);
  expect(told(200, 320, 340), "the one before reaches out to the right").toEqual([
    ...["LOD1 right", "LOD2 below", "LOD3 right"],
  ]);
});

test("switches in one place have one label, that of the last", () => {
  expect(told(200, 200, 200)).toEqual([null, null, "LOD1 to 3 right"]);
  expect(told(200, 203, 400)).toEqual([null, "LOD1 to 2 right", "LOD3 right"]);
  expect(told(100, 300, 302)).toEqual(["LOD1 right", null, "LOD2 to 3 right"]);
  expect(told(200, 203, 240)).toEqual([null, "LOD1 to 2 left", "LOD3 right"]);
});

test("a level from the very beginning is not taken for LOD0", () => {
  expect(told(52)).toEqual(["LOD1 right"]);
  expect(switchLabels([])).toEqual([]);
});
