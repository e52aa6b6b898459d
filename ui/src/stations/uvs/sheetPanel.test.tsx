import { render } from "@testing-library/react";
import { Texture } from "three";
import { expect, test, vi } from "vitest";

import { crateWith } from "../../testing/crate";
import { choose } from "../../testing/station";
import { SheetPanel, type Under } from "./SheetPanel";
import type { UvMarks } from "./useUvMarks";

test("what lies under the islands is chosen by its material, whatever that is called", () => {
  const spies = { onChannel: vi.fn(), onView: vi.fn(), onUnder: vi.fn(), onHover: vi.fn(), onPick: vi.fn() };
  const panel = (under: Under) => (
    <SheetPanel
      {...{ prop: crateWith(), number: 0, channel: null, empty: "", grid: new Texture(), view: "islands", under }}
      {...{ hovered: null, picked: null, marks: {} as UvMarks, ...spies }}
      textures={["", "grid", "oak"].map((name) => ({ name, map: new Texture() }))}
    />
  );
  const { rerender } = render(panel("paper"));
  for (const [label, under] of [
    ["grid", "of grid"],
    ["unnamed material", "of "],
    ["Numbered grid", "grid"],
    ["oak", "of oak"],
    ["Plain", "paper"],
  ] as const) {
    choose("Under the islands", label);
    expect(spies.onUnder).toHaveBeenLastCalledWith(under);
    rerender(panel(under));
  }
});
