import { expect, test } from "vitest";

import { shownLook, type TextureLook } from "./textureLook";

const look: TextureLook = { shows: "lit", level: 9, split: 0.3, error: 32 };

test("a result that is smaller or gone takes its far mips and its errors with it, and nothing else", () => {
  expect(shownLook(look, 10, true)).toEqual(look);
  expect(shownLook(look, 9, true)).toEqual({ ...look, level: 8 });
  expect(shownLook(look, 10, false)).toEqual({ ...look, error: null });
});
