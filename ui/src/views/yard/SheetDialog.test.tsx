import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, test, vi } from "vitest";

import { mount } from "../../testing/mount";
import { askedBy, Refusal, serve } from "../../testing/server";
import { choose } from "../../testing/station";
import { SheetDialog } from "./SheetDialog";

const sheet = (more: object) => ({
  id: 4,
  name: "lantern_room",
  state: "running",
  error: "",
  fraction: 0.25,
  doing: "packing",
  members: ["bell", "ring"],
  before: null,
  after: null,
  messages: [],
  props: [],
  picture: null,
  ...more,
});
const done = sheet({
  state: "done",
  fraction: 1,
  before: { draw_calls: 9, texture_bytes: 33 * 2 ** 20, density: 1125 },
  after: { draw_calls: 2, texture_bytes: 64 * 2 ** 20, density: 766 },
  messages: ["ring: rope tiles (4 islands) and stays as it is"],
  props: [21, 22],
  picture: "/api/files/ab.png",
});

const open = () => {
  const [onClose, onShow] = [vi.fn(), vi.fn()];
  mount(<SheetDialog ids={[2, 7]} onClose={onClose} onShow={onShow} />);
  return { onClose, onShow };
};
const order = () => fireEvent.click(screen.getByRole("button", { name: "Make the sheet" }));

test("what is chosen is ordered, watched, and its costs stand beside what it replaces", async () => {
  serve({ "POST /api/sheets": sheet({}), "GET /api/sheets/4": sheet({}) });
  const { onShow } = open();
  choose("Size of the sheet", "1\u202f024 × 1\u202f024 px");
  choose("Textures that tile", "Go in repeated");
  order();
  expect(await screen.findByText("packing · 25 %")).toBeTruthy();
  expect(askedBy("POST")[0]?.body).toEqual({
    ids: [2, 7],
    name: "sheet",
    size: 1024,
    padding: 8,
    tiling: "repeat",
    density: "even",
  });
  serve({ "GET /api/sheets/4": done });
  expect(await screen.findByAltText("Colours of the sheet")).toBeTruthy();
  const rows = screen.getAllByRole("row").map((row) => [...row.children].map((cell) => cell.textContent));
  expect(rows.slice(1)).toEqual([
    ["Draw calls of LOD0", "9", "2"],
    ["Textures with mips", "33 MiB", "64 MiB"],
    ["Median density", "1\u202f125 px/m", "766 px/m"],
  ]);
  expect(screen.getByText("ring: rope tiles (4 islands) and stays as it is")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Show 2 new props" }));
  expect(onShow).toHaveBeenCalledWith("lantern_room");
});

test("a sheet is called off, and what fails says why and can be ordered anew", async () => {
  serve({ "POST /api/sheets": sheet({}), "GET /api/sheets/4": sheet({}), "POST /api/sheets/4/cancel": sheet({}) });
  open();
  order();
  fireEvent.click(await screen.findByRole("button", { name: "Cancel" }));
  await waitFor(() => expect(askedBy("POST").at(-1)?.path).toBe("/api/sheets/4/cancel"));
  serve({ "GET /api/sheets/4": sheet({ state: "cancelled" }) });
  expect(await screen.findByText("Called off.")).toBeTruthy();
  serve({
    "POST /api/sheets": sheet({ id: 5 }),
    "GET /api/sheets/5": sheet({ id: 5, state: "failed", error: "bell is held back; mend it first" }),
  });
  order();
  expect((await screen.findByRole("alert")).textContent).toBe("bell is held back; mend it first");
  serve({
    "POST /api/sheets": () => {
      throw new Refusal(422, "choose at least one prop for the sheet");
    },
  });
  order();
  expect(await screen.findByText("choose at least one prop for the sheet")).toBeTruthy();
});
