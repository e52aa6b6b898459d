import { fireEvent, screen, waitFor } from "@testing-library/react";
import { beforeEach, expect, test } from "vitest";

import { mount } from "../../testing/mount";
import { shipment, shipmentItem } from "../../testing/props";
import { askedBy, Refusal, serve } from "../../testing/server";
import { type } from "../../testing/station";
import { Delivery } from "./Delivery";

const file = (path: string, change: string, size = 2048, before = 0) => ({
  path,
  change,
  bytes: size,
  bytes_before: before,
});
const plan = (more: object = {}) => ({
  root: "/srv/game",
  folder: "props",
  files: [
    file("a.glb", "made"),
    file("b.glb", "replaced", 1024, 2048),
    file("c.glb", "same"),
    file("d.glb", "foreign"),
  ],
  left: [],
  changed: [],
  ...more,
});
const done = shipment([shipmentItem(1, "a")]);

beforeEach(() => {
  localStorage.clear();
  serve({ "GET /api/shipments/4/delivery": plan(), "POST /api/shipments/4/deliver": done });
});

test("what would be written, replaced and left alone is told before anything is", async () => {
  mount(<Delivery shipment={done} />);
  expect(await screen.findByText("2 files to write, 3.0 KiB; 1 the same already")).toBeTruthy();
  expect(screen.getByText("2.0 → 1.0 KiB")).toBeTruthy();
  expect(screen.getByText("not written: another file is there that no delivery wrote")).toBeTruthy();
  expect(screen.queryByText("c.glb")).toBeNull();
  type("Folder", "set/props");
  fireEvent.click(await screen.findByRole("button", { name: "Deliver 2 files" }));
  await screen.findByText("2 files to write, 3.0 KiB; 1 the same already");
  expect(askedBy("POST")[0]?.body).toEqual({ folder: "set/props", removes: false });
  expect(localStorage.getItem("plindro.folder")).toBe("set/props");
});

test("what earlier deliveries left behind goes only when that is ticked, and never what was changed", async () => {
  serve({
    "GET /api/shipments/4/delivery": plan({
      files: [file("c.glb", "same")],
      left: ["old.glb", "mine.glb"],
      changed: ["mine.glb"],
    }),
  });
  mount(<Delivery shipment={done} />);
  expect(await screen.findByText("old.glb, mine.glb")).toBeTruthy();
  const button = screen.getByRole("button", { name: "Deliver 0 files" });
  expect(button).toHaveProperty("disabled", true);
  fireEvent.click(screen.getByRole("checkbox", { name: "Remove 1 file with this delivery" }));
  fireEvent.click(button);
  await screen.findByText("old.glb, mine.glb");
  expect(askedBy("POST")[0]?.body).toEqual({ folder: "props", removes: true });
});

test("what goes is agreed for one folder and one delivery, not for the next", async () => {
  serve({ "GET /api/shipments/4/delivery": plan({ left: ["old.glb"] }) });
  mount(<Delivery shipment={done} />);
  const tick = async () => screen.findByRole("checkbox", { name: "Remove 1 file with this delivery" });
  fireEvent.click(await tick());
  type("Folder", "elsewhere");
  fireEvent.click(await screen.findByRole("button", { name: "Deliver 2 files" }));
  expect((await tick()).getAttribute("aria-checked")).toBe("false");
  await waitFor(() => expect(askedBy("POST").at(-1)?.body).toEqual({ folder: "elsewhere", removes: false }));
  fireEvent.click(await tick());
  fireEvent.click(screen.getByRole("button", { name: "Deliver 2 files" }));
  await waitFor(() => expect(askedBy("POST").at(-1)?.body).toEqual({ folder: "elsewhere", removes: true }));
  await waitFor(async () => expect((await tick()).getAttribute("aria-checked")).toBe("false"));
});

test("a folder that cannot be is told, and so is how the last delivery went", async () => {
  serve({
    "GET /api/shipments/4/delivery": () => {
      throw new Refusal(422, "'..' is no folder below /srv/game");
    },
  });
  const delivery = {
    folder: "props",
    state: "done" as const,
    error: "",
    made: 2,
    replaced: 1,
    same: 4,
    foreign: 0,
    removed: 0,
    rolls_back: false,
  };
  mount(<Delivery shipment={{ ...done, delivery }} />);
  expect((await screen.findByRole("alert")).textContent).toBe("'..' is no folder below /srv/game");
  expect(screen.getByText("Delivered into props: 2 new, 1 replaced, 4 left alone.")).toBeTruthy();
});

test("a folder goes back to the shipment before, which is said", async () => {
  const back = { ...done, id: 3, delivery: { folder: "props" } };
  serve({ "POST /api/shipments/4/roll-back": back });
  mount(<Delivery shipment={{ ...done, goes_back_to: 3 }} />);
  fireEvent.click(await screen.findByRole("button", { name: "Roll back to no. 3" }));
  expect(await screen.findByText("props goes back to shipment 3")).toBeTruthy();
});
