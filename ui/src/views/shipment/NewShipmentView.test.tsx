import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { beforeEach, expect, test } from "vitest";

import { mount } from "../../testing/mount";
import { board, propRow } from "../../testing/props";
import { askedBy, Refusal, serve } from "../../testing/server";
import { type } from "../../testing/station";
import NewShipmentView from "./NewShipmentView";

const PROPS = [propRow(1, "crate"), propRow(2, "lamp"), propRow(3, "open_box", { readiness: "held" })];

const CHANGES = ["replaced", "same", "made"];
const SINCE = ["changed", "same", "new"];

const previewed = (body: unknown) => {
  const { ids, destination, folder } = body as { ids: number[]; destination: string; folder: string };
  const rows = ids.map((id) => ({
    prop: id,
    files:
      id === 3
        ? []
        : [
            {
              path: `${destination === "named" ? "SM_" : ""}${PROPS[id - 1]?.name}.glb`,
              bytes: destination === "named" ? null : 2048,
              change: folder ? CHANGES[id - 1] : null,
            },
          ],
    levels: [`${PROPS[id - 1]?.name}_LOD0`, `${PROPS[id - 1]?.name}_LOD1`],
    held: id === 3,
    stops: id === 3 ? [{ code: "no-uvs", level: null, message: "2 stops hold it" }] : [],
    note: "",
    left: id === 2 ? ["old.glb"] : [],
    since: SINCE[id - 1],
    is_built: true,
  }));
  return { root: "/srv/game", rows, left: folder ? ["gone.glb", "mine.glb"] : [], changed: ["mine.glb"] };
};

beforeEach(() =>
  serve({
    "GET /api/props/changes": board(PROPS),
    "GET /api/project": {
      name: "",
      lines: [],
      destinations: [
        { name: "plain", title: "Plain GLB" },
        { name: "named", title: "Named GLB" },
      ],
    },
    "POST /api/shipments/preview": previewed,
    "GET /api/selections": [{ name: "pier", props: [2] }],
  }),
);

const row = (name: string) => screen.getByText(name, { selector: "span" }).closest("tr") as HTMLElement;
const open = (ids: string) => mount(<NewShipmentView />, { at: `/shipments/new?ids=${ids}`, route: "/shipments/new" });

test("the very files that will be written are shown, and what is held back and why", async () => {
  open("1,3");
  await screen.findByText("crate.glb");
  expect(within(row("crate")).getByText("crate_LOD0 … crate_LOD1")).toBeTruthy();
  expect(within(row("open_box")).getByText("2 stops hold it")).toBeTruthy();
  expect(screen.getByText("1 file and manifest.json will be written, 2.0 KiB; 1 prop held back")).toBeTruthy();
  expect(within(row("lamp")).queryByText("lamp.glb"), "a prop that was not chosen").toBeNull();
});

test("choosing asks again, all and none by one box, and nothing cannot be shipped", async () => {
  open("1");
  await screen.findByText("crate.glb");
  fireEvent.click(screen.getByLabelText("Ship lamp"));
  await screen.findByText("lamp.glb");
  expect(askedBy("POST").at(-1)?.body).toEqual({ ids: [1, 2], destination: "plain", folder: "", removes: false });
  const all = screen.getByLabelText("Choose all props");
  expect(all.getAttribute("aria-checked")).toBe("mixed");
  fireEvent.click(all);
  expect(await screen.findByRole("button", { name: "Ship 2 props" }), "the third is held back").toBeTruthy();
  fireEvent.click(all);
  expect((screen.getByRole("button", { name: "Ship 0 props" }) as HTMLButtonElement).disabled).toBe(true);
});

test("the order goes where it is watched; a refusal is told and nothing is left behind", async () => {
  serve({
    "POST /api/shipments": () => {
      throw new Refusal(422, "the folder of shipments cannot be written");
    },
  });
  open("2,1");
  await screen.findByText("lamp.glb");
  fireEvent.click(screen.getByRole("button", { name: "Ship 2 props" }));
  expect(await screen.findByText("the folder of shipments cannot be written")).toBeTruthy();
  expect(screen.getByLabelText("address").textContent).toBe("/shipments/new?ids=2,1");
  serve({ "POST /api/shipments": { id: 9 } });
  const again = screen.getByRole("button", { name: "Ship 2 props" }) as HTMLButtonElement;
  await waitFor(() => expect(again.disabled).toBe(false));
  fireEvent.click(again);
  await waitFor(() => expect(screen.getByLabelText("address").textContent).toBe("/shipments/9"));
  const orders = askedBy("POST").filter(({ path }) => path === "/api/shipments");
  expect(orders.at(-1)?.body).toEqual({ ids: [1, 2], destination: "plain", folder: "", removes: false });
});

test("all that changed is chosen at once, and selections by their names", async () => {
  open("");
  fireEvent.click(await screen.findByRole("button", { name: "All that changed · 1" }));
  await screen.findByText("crate.glb");
  expect(within(row("crate")).getByText("changed")).toBeTruthy();
  expect(screen.getByRole("button", { name: "Ship 1 prop" })).toBeTruthy();
  serve({
    "POST /api/selections": [
      { name: "pier", props: [2] },
      { name: "crates", props: [1] },
    ],
  });
  fireEvent.click(screen.getByRole("button", { name: "Save selection" }));
  type("Name", "crates");
  fireEvent.click(await screen.findByRole("button", { name: "Save" }));
  expect(await screen.findByRole("button", { name: "Forget “crates”" })).toBeTruthy();
  expect(askedBy("POST").at(-1)?.body).toEqual({ name: "crates", props: [1] });
});

test("a folder says what becomes of each file, and what is left behind goes when that is ticked", async () => {
  localStorage.clear();
  open("1,2");
  fireEvent.click(await screen.findByRole("checkbox", { name: "Deliver into" }));
  expect(await within(row("crate")).findByText("replaced")).toBeTruthy();
  expect(screen.getByText(/4.0 KiB: 1 replaced, 1 left alone/)).toBeTruthy();
  expect(screen.getByText("gone.glb")).toBeTruthy();
  fireEvent.click(screen.getByRole("checkbox", { name: "Remove 1 file" }));
  serve({ "POST /api/shipments": { id: 9 } });
  fireEvent.click(screen.getByRole("button", { name: "Ship and deliver 2 props" }));
  await waitFor(() => expect(screen.getByLabelText("address").textContent).toBe("/shipments/9"));
  const orders = askedBy("POST").filter(({ path }) => path === "/api/shipments");
  expect(orders.at(-1)?.body).toEqual({ ids: [1, 2], destination: "plain", folder: "props", removes: true });
});

test("what is gone from the board since it was chosen is left out", async () => {
  open("1,77,x");
  await screen.findByText("crate.glb");
  expect(askedBy("POST").map(({ body }) => (body as { ids: number[] }).ids)).not.toContainEqual([1, 77]);
  expect(screen.getByRole("button", { name: "Ship 1 prop" })).toBeTruthy();
});

test("a selection is saved by Enter, under any name", async () => {
  const saved = [{ name: "none", props: [1] }];
  serve({ "POST /api/selections": saved });
  open("1");
  fireEvent.click(await screen.findByRole("button", { name: "Save selection" }));
  const field = screen.getByLabelText("Name");
  fireEvent.change(field, { target: { value: "none" } });
  fireEvent.keyDown(field, { key: "Enter" });
  fireEvent.submit(field.closest("form")!);
  expect(await screen.findByRole("button", { name: "Forget “none”" })).toBeTruthy();
  expect(askedBy("POST").at(-1)?.body).toEqual({ name: "none", props: [1] });
});

test("an empty board says where to begin", async () => {
  serve({ "GET /api/props/changes": board([]) });
  open("");
  expect(await screen.findByText("Add props in the Yard first.")).toBeTruthy();
});
