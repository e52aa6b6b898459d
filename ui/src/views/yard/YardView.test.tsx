import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { beforeEach, expect, test, vi } from "vitest";

import type { ActiveJob } from "../../app/activity";
import { mount } from "../../testing/mount";
import { board, propRow } from "../../testing/props";
import { askedBy, Refusal, serve } from "../../testing/server";
import { YardView } from "./YardView";

let jobs: ActiveJob[] = [];
vi.mock("../../app/activity", () => ({ useActivity: () => ({ jobs, connected: true }) }));
// There is no layout here: every row is in sight.
vi.mock("@tanstack/react-virtual", () => ({
  useVirtualizer: ({ count }: { count: number }) => ({
    getTotalSize: () => 54 * count,
    getVirtualItems: () => Array.from({ length: count }, (_, index) => ({ index, start: 54 * index })),
    scrollToIndex: () => undefined,
  }),
}));

const PROPS = [
  propRow(1, "crate"),
  propRow(2, "signal_lamp", { readiness: "held", stops: 2, materials: 5 }),
  propRow(3, "anchor", { readiness: "warning", warnings: 1, infos: 3, triangles: 4000 }),
  propRow(4, "torn", { readiness: "failed", error: "torn.obj ends in the middle", format: null, triangles: null }),
];

const open = async () => {
  mount(<YardView />);
  await screen.findByText("crate");
};
const names = () =>
  screen
    .getAllByRole("row")
    .slice(1)
    .map((row) => within(row).getByRole("checkbox").getAttribute("aria-label")?.replace("Select ", ""));
const row = (name: string) => screen.getByLabelText(`Select ${name}`).closest('[role="row"]') as HTMLElement;

beforeEach(() => {
  jobs = [];
  serve({
    "GET /api/props/changes": board(PROPS),
    "GET /api/project": { name: "Harbour", lines: [], destinations: [], has_demo: true },
  });
});

test("figures stand beside what they are compared with", async () => {
  await open();
  expect(row("anchor").textContent).toContain("4\u202f000/ 2\u202f500");
  expect(within(row("anchor")).getByText("4 000").className).toContain("text-warning");
  expect(within(row("crate")).getByText("1 000").className).not.toContain("text-warning");
  expect(within(row("signal_lamp")).getByText("5").className).toContain("text-warning");
  expect(within(row("crate")).getByText("→ 40 tris")).toBeTruthy();
  expect(within(row("torn")).getByText("torn.obj ends in the middle")).toBeTruthy();
  expect(within(row("anchor")).getByTitle("3 info")).toBeTruthy();
});

test("the board is sorted by a head, the farthest from shipping first", async () => {
  await open();
  fireEvent.click(screen.getByRole("button", { name: /readiness/ }));
  expect(screen.getByRole("columnheader", { name: /readiness/ }).getAttribute("aria-sort")).not.toBe("none");
  const once = names();
  fireEvent.click(screen.getByRole("button", { name: /readiness/ }));
  expect(names()).toEqual([...once].reverse());
  expect([once[0], once.at(-1)].sort()).toEqual(["crate", "torn"]);
});

test("search and filter narrow the board, and an empty one leads back", async () => {
  await open();
  fireEvent.change(screen.getByLabelText("Search props"), { target: { value: "LAMP signal" } });
  expect(names()).toEqual(["signal_lamp"]);
  expect(screen.getByText("1 of 4 props")).toBeTruthy();
  fireEvent.click(screen.getByRole("radio", { name: "Warnings 1" }));
  expect(screen.getByText("No prop matches")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Show all 4" }));
  expect(names()).toHaveLength(4);
});

test("rows are selected by box and by key, and shipped in one order", async () => {
  await open();
  const ship = screen.getByRole("button", { name: "Ship…" }) as HTMLButtonElement;
  expect(ship.disabled).toBe(true);
  fireEvent.click(screen.getByLabelText("Select anchor"));
  fireEvent.keyDown(row("crate"), { key: " " });
  expect(screen.getByText("2 selected")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Ship 2…" }));
  expect(decodeURIComponent(screen.getByLabelText("address").textContent ?? "")).toBe("/shipments/new?ids=1,3");
});

test("Enter opens the row on the Bench", async () => {
  await open();
  fireEvent.keyDown(row("anchor"), { key: "Enter" });
  expect(screen.getByLabelText("address").textContent).toBe("/props/3");
});

test("props are taken off the board and brought back", async () => {
  serve({ "POST /api/props/remove": { count: 1 }, "POST /api/props/restore": { count: 1 } });
  await open();
  fireEvent.click(screen.getByLabelText("Select torn"));
  fireEvent.keyDown(document.body, { key: "Delete" });
  fireEvent.click(await screen.findByRole("button", { name: "Undo" }));
  await waitFor(() =>
    expect(askedBy("POST").map(({ path, body }) => [path, body])).toEqual([
      ["/api/props/remove", { ids: [4] }],
      ["/api/props/restore", { ids: [4] }],
    ]),
  );
});

test("what cannot be taken off says why, and the selection stays", async () => {
  serve({
    "POST /api/props/remove": () => {
      throw new Refusal(422, "torn is being shipped; wait or cancel");
    },
  });
  await open();
  fireEvent.click(screen.getByLabelText("Select torn"));
  fireEvent.click(screen.getByRole("button", { name: "Take off the board" }));
  expect(await screen.findByText("torn is being shipped; wait or cancel")).toBeTruthy();
  expect(screen.getByText("1 selected")).toBeTruthy();
});

test("a prop that is being built shows how far it is", async () => {
  jobs = [{ id: 1, kind: "build", state: "running", fraction: 0.25, doing: "levels", subject: 3 }];
  await open();
  expect(within(row("anchor")).getByRole("progressbar").getAttribute("aria-valuenow")).toBe("25");
  expect(within(row("crate")).queryByRole("progressbar")).toBeNull();
});

test("an empty board says what can be dropped, and a broken one why", async () => {
  serve({ "GET /api/props/changes": board([]) });
  mount(<YardView />);
  expect(await screen.findByText("No props yet")).toBeTruthy();
  expect(screen.getByRole("button", { name: "Grow the demo rock" })).toBeTruthy();
});

test("the project is named in place; Escape leaves the name as it was", async () => {
  serve({ "PATCH /api/project": (body: unknown) => ({ ...(body as object), lines: [], destinations: [] }) });
  await open();
  fireEvent.click(await screen.findByRole("button", { name: "Name the project, Harbour" }));
  fireEvent.change(screen.getByLabelText("Project name"), { target: { value: "Quay" } });
  fireEvent.keyDown(screen.getByLabelText("Project name"), { key: "Escape" });
  expect(askedBy("PATCH")).toEqual([]);
  fireEvent.click(screen.getByRole("button", { name: "Name the project, Harbour" }));
  fireEvent.change(screen.getByLabelText("Project name"), { target: { value: "Quay" } });
  fireEvent.keyDown(screen.getByLabelText("Project name"), { key: "Enter" });
  expect(await screen.findByRole("button", { name: "Name the project, Quay" })).toBeTruthy();
});
