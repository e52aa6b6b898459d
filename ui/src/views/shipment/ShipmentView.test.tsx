import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { expect, test, vi } from "vitest";

import type { ActiveJob } from "../../app/activity";
import { mount } from "../../testing/mount";
import { shipment, shipmentItem } from "../../testing/props";
import { askedBy, serve } from "../../testing/server";
import LedgerView from "./LedgerView";
import ShipmentView from "./ShipmentView";

let jobs: ActiveJob[] = [];
vi.mock("../../app/activity", () => ({ useActivity: () => ({ jobs, connected: true }) }));

const open = () => mount(<ShipmentView />, { at: "/shipments/4", route: "/shipments/:id" });
const row = async (name: string) => (await screen.findByRole("link", { name })).closest("tr") as HTMLElement;
const finding = (severity: string, message: string) => ({ code: message, severity, message, level: null });

test("a shipped prop shows its levels, file, digest, size and time", async () => {
  jobs = [];
  serve({ "GET /api/shipments/4": shipment([shipmentItem(1, "crate")]) });
  open();
  const crate = await row("crate");
  expect(within(crate).getByText("shipped")).toBeTruthy();
  expect(crate.textContent).toContain("2 · 1\u202f200 → 300 tris");
  const file = within(crate).getByRole("link", { name: "Download crate.glb" });
  expect(file.getAttribute("href")).toBe("/api/shipments/items/1/crate.glb");
  expect(within(crate).getByText("ab12cd34ef").getAttribute("title")).toBe(`SHA-256 ${"ab12cd34ef56".repeat(4)}`);
  expect(within(crate).getByText("2.0 KiB")).toBeTruthy();
  expect(within(crate).getByText("no warnings")).toBeTruthy();
  expect(screen.getByText("1 min 15 s")).toBeTruthy();
  expect(screen.getByText("Download zip").getAttribute("href")).toBe("/api/shipments/4/archive");
  expect(screen.queryByRole("button", { name: "Cancel" }), "what is done cannot be cancelled").toBeNull();
});

test("what is held or failed says why, the severest three first in sight", async () => {
  jobs = [];
  const findings = [
    finding("info", "its source has no unit"),
    ...["holes", "slivers", "no UVs", "overlaps"].map((what) => finding("warning", what)),
  ];
  serve({
    "GET /api/shipments/4": shipment(
      [
        shipmentItem(1, "open_box", { state: "held", files: [], findings: findings as never }),
        shipmentItem(2, "torn", { state: "failed", error: "torn.glb ends in the middle", files: [] }),
      ],
      { shipped: 0, held: 1, failed: 1, archive: null },
    ),
  });
  open();
  const held = await row("open_box");
  expect(within(held).getByText("holes")).toBeTruthy();
  expect(within(held).queryByText("overlaps")).toBeNull();
  expect(within(held).getByText("and 1 more finding")).toBeTruthy();
  expect(within(held).queryByText("its source has no unit")).toBeNull();
  expect(within(await row("torn")).getByText("torn.glb ends in the middle")).toBeTruthy();
  expect(screen.queryByText("Download zip")).toBeNull();
});

test("a running shipment shows the progress of each prop and is cancelled", async () => {
  jobs = [{ id: 1, kind: "ship", state: "running", fraction: 0.5, doing: "levels", subject: 2 }];
  const items = [shipmentItem(1, "crate"), shipmentItem(2, "lamp", { state: "waiting", files: [], levels: [] })];
  serve({
    "GET /api/shipments/4": shipment(items, { state: "running", waiting: 1, shipped: 1, seconds: null, archive: null }),
    "POST /api/shipments/4/cancel": { id: 4 },
  });
  open();
  expect(within(await row("lamp")).getByText("levels")).toBeTruthy();
  expect(screen.getByRole("progressbar", { name: "progress of lamp" }).getAttribute("aria-valuenow")).toBe("50");
  expect(screen.getByRole("progressbar", { name: "shipment" }).getAttribute("aria-valuenow")).toBe("75");
  fireEvent.click(screen.getByRole("button", { name: "Cancel" }));
  await waitFor(() => expect(askedBy("POST").map(({ path }) => path)).toEqual(["/api/shipments/4/cancel"]));
});

test("what is being packed is told, and why there is no archive", async () => {
  const items = [shipmentItem(1, "crate")];
  const why = "the disk that Plindro keeps its files on is full; make room and try again";
  serve({ "GET /api/shipments/4": shipment(items, { is_packing: true, archive: null }) });
  open();
  expect(await screen.findByText("packing the zip …")).toBeTruthy();
  cleanup();
  serve({ "GET /api/shipments/4": shipment(items, { state: "failed", error: why, archive: null }) });
  open();
  expect((await screen.findByRole("alert")).textContent).toContain(why);
  expect(screen.queryByRole("link", { name: "Download zip" })).toBeNull();
});

test("a shipment that is not there says so", async () => {
  open();
  expect(await screen.findByText("This shipment cannot be shown")).toBeTruthy();
});

test("the ledger has a row for each shipment, the running one with what is left", async () => {
  const done = shipment([shipmentItem(1, "crate")]);
  serve({ "GET /api/shipments": [{ ...done, id: 5, state: "running", waiting: 3, seconds: null, held: 1 }, done] });
  mount(<LedgerView />);
  const [running, ended] = (await screen.findAllByRole("row")).slice(1);
  expect(running?.textContent).toContain("running, 3 to go");
  expect(running?.textContent).toContain("…");
  expect(ended?.textContent).toContain("1 min 15 s");
  expect(
    within(ended as HTMLElement)
      .getByRole("link")
      .getAttribute("href"),
  ).toBe("/shipments/4");
});

test("an empty ledger says how it is filled", async () => {
  serve({ "GET /api/shipments": [] });
  mount(<LedgerView />);
  expect(await screen.findByText("Nothing shipped yet")).toBeTruthy();
});

test("what is undone is tried again, the whole is shipped again, and both say where it went", async () => {
  jobs = [];
  const waivers = [{ code: "light-map-missing", by: "Ines", reason: "baked elsewhere" }];
  const items = [
    shipmentItem(1, "crate", { is_seen: true, waivers }),
    shipmentItem(2, "lamp", { state: "held", files: [] }),
  ];
  serve({
    "GET /api/shipments/4": shipment(items, { held: 1, before: 3, report: "/r.html" }),
    "POST /api/shipments/4/retry": { id: 4 },
    "POST /api/shipments/4/repeat": { id: 9 },
  });
  open();
  const crate = await row("crate");
  expect(within(crate).getByText("light map missing waived by Ines: baked elsewhere")).toBeTruthy();
  expect(within(crate).getByRole("link", { name: "Rehearsal of crate" }).getAttribute("href")).toBe(
    "/shipments/4/items/1",
  );
  expect(screen.getByRole("link", { name: /Compare with no/ }).getAttribute("href")).toBe("/shipments/4/compare");
  expect(screen.getByRole("link", { name: "Report" }).getAttribute("href")).toBe("/r.html");
  fireEvent.click(screen.getByRole("button", { name: "Try 1 again" }));
  await waitFor(() => expect(askedBy("POST").at(-1)?.path).toBe("/api/shipments/4/retry"));
  fireEvent.click(screen.getByRole("button", { name: "Ship again" }));
  await waitFor(() => expect(screen.getByLabelText("address").textContent).toBe("/shipments/9"));
});

test("the time left is at the pace of the props that still had to be made, not since it was ordered", async () => {
  const start = Date.now();
  const now = vi.spyOn(Date, "now").mockReturnValue(start);
  const items = [1, 2, 3, 4, 5, 6, 7, 8].map((id) => shipmentItem(id, `crate${id}`, { state: "waiting" }));
  const job = (id: number): ActiveJob => ({ id, kind: "ship", state: "queued", fraction: 0, doing: "", subject: id });
  jobs = items.map(({ id }) => job(id));
  serve({
    "GET /api/shipments/4": shipment(items, { state: "running", created: "2026-01-01T00:00:00Z", waiting: 8 }),
    "POST /api/shipments/4/cancel": { id: 4 },
  });
  open();
  await row("crate1");
  expect(screen.queryByText("time left")).toBeNull();
  now.mockReturnValue(start + 60_000);
  jobs = jobs.slice(4);
  fireEvent.click(screen.getByRole("button", { name: "Cancel" }));
  expect(await screen.findByText("about 1 min")).toBeTruthy();
  now.mockRestore();
});
