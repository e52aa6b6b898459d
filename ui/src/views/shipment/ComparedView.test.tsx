import { screen, within } from "@testing-library/react";
import { expect, test } from "vitest";

import { mount } from "../../testing/mount";
import { serve } from "../../testing/server";
import ComparedView from "./ComparedView";

const side = (triangles: number[], bytes: number, more: object = {}) => ({
  state: "shipped",
  triangles,
  bytes,
  files: [],
  picture: "/api/files/a.png",
  ...more,
});
const open = () => mount(<ComparedView />, { at: "/shipments/4/compare", route: "/shipments/:id/compare" });

test("counts, sizes and findings of what differs stand beside each other", async () => {
  const row = {
    prop: 1,
    name: "crate",
    change: "changed",
    before: side([1200, 600, 300], 4096),
    after: side([1200, 300], 2048),
    appeared: ["texture-missing"],
    gone: ["3 holes"],
  };
  const added = { ...row, prop: 2, name: "lamp", change: "added", before: null, appeared: [], gone: [] };
  serve({ "GET /api/shipments/4/compare": { other: 3, props: [row, added], same: 7 } });
  open();
  const crate = (await screen.findByText("crate")).closest("tr") as HTMLElement;
  expect(crate.textContent).toContain("LOD0 1\u202f200");
  expect(crate.textContent).toContain("LOD1 600 → 300 (−50 %)");
  expect(crate.textContent).toContain("LOD2 300 → none");
  expect(crate.textContent).toContain("4.0 KiB → 2.0 KiB −50 %");
  expect(within(crate).getByText(/came: texture-missing/)).toBeTruthy();
  expect(within(crate).getByText(/went: 3 holes/)).toBeTruthy();
  expect(within(crate).getByRole("img", { name: "crate before" })).toBeTruthy();
  expect((screen.getByText("lamp").closest("tr") as HTMLElement).textContent).toContain("added");
  expect(screen.getByText(/2 props differ, 7 the same to/)).toBeTruthy();
});

test("where nothing differs, or there is nothing before, that is said", async () => {
  serve({ "GET /api/shipments/4/compare": { other: null, props: [], same: 0 } });
  open();
  expect(await screen.findByText("Nothing to compare with")).toBeTruthy();
});
