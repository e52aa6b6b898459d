import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, test, vi } from "vitest";

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

describe("with a hand on the keys", () => {
  const FEW = [propRow(1, "crate"), propRow(2, "lamp", { is_stale: true }), propRow(3, "anchor")];
  const box = (name: string) => screen.getByLabelText(name).getAttribute("aria-checked");
  const address = () => decodeURIComponent(screen.getByLabelText("address").textContent ?? "");
  beforeEach(() => serve({ "GET /api/props/changes": board(FEW) }));

  test("the slash goes to the search, where keys are letters again", async () => {
    await open();
    fireEvent.keyDown(document.body, { key: "/" });
    const search = screen.getByLabelText("Search props");
    expect(document.activeElement).toBe(search);
    fireEvent.click(screen.getByLabelText("Select crate"));
    for (const key of ["Delete", "Backspace", "/"]) fireEvent.keyDown(search, { key });
    fireEvent.keyDown(search, { key: "a", ctrlKey: true });
    expect(askedBy("POST")).toEqual([]);
    expect(screen.getByText("1 selected")).toBeTruthy();
  });

  test("all that are shown are selected at once, and only those", async () => {
    await open();
    fireEvent.change(screen.getByLabelText("Search props"), { target: { value: "standing" } });
    fireEvent.keyDown(document.body, { key: "a", ctrlKey: true });
    expect(screen.getByText("3 selected")).toBeTruthy();
    fireEvent.click(screen.getByLabelText("Select all props shown"));
    fireEvent.change(screen.getByLabelText("Search props"), { target: { value: "anch" } });
    fireEvent.keyDown(document.body, { key: "a", ctrlKey: true });
    fireEvent.change(screen.getByLabelText("Search props"), { target: { value: "" } });
    expect(["Select crate", "Select lamp", "Select anchor"].map(box)).toEqual(["false", "false", "true"]);
    expect(box("Select all props shown")).toBe("mixed");
  });

  test("what the search has put out of sight is not taken off the board with what is in sight", async () => {
    serve({ "POST /api/props/remove": { count: 1 } });
    await open();
    fireEvent.keyDown(document.body, { key: "a", ctrlKey: true });
    fireEvent.change(screen.getByLabelText("Search props"), { target: { value: "lamp" } });
    expect(screen.getByText("1 selected")).toBeTruthy();
    fireEvent.keyDown(document.body, { key: "Backspace" });
    await waitFor(() => expect(askedBy("POST").map(({ body }) => body)).toEqual([{ ids: [2] }]));
  });

  test("arrows go from row to row and stay on the board", async () => {
    await open();
    const frames: FrameRequestCallback[] = [];
    vi.spyOn(window, "requestAnimationFrame").mockImplementation((frame) => frames.push(frame));
    const go = (from: string, key: string) => {
      fireEvent.keyDown(row(from), { key });
      frames.splice(0).forEach((frame) => frame(0));
      return document.activeElement;
    };
    expect(go("crate", "ArrowDown")).toBe(row("lamp"));
    expect(go("lamp", "ArrowUp")).toBe(row("crate"));
    expect(go("crate", "ArrowUp")).toBe(row("crate"));
    expect(go("anchor", "ArrowDown")).toBe(row("anchor"));
    vi.restoreAllMocks();
  });

  test("a key that is pressed in a cell is the cell's", async () => {
    await open();
    fireEvent.keyDown(screen.getByLabelText("Select lamp"), { key: "Enter" });
    expect(address()).toBe("/");
  });

  test("a prop is opened by its name, or by two clicks anywhere on its row", async () => {
    await open();
    fireEvent.click(screen.getByText("lamp"));
    expect(address()).toBe("/props/2");
  });

  test("two clicks on a row open it", async () => {
    await open();
    fireEvent.doubleClick(row("anchor"));
    expect(address()).toBe("/props/3");
  });

  test("props whose line has changed are built from the board; what stops that is told", async () => {
    await open();
    serve({
      "POST /api/lines/build-stale": () => {
        throw new Refusal(507, "the disk is full; free some space and build again");
      },
    });
    fireEvent.click(screen.getByRole("button", { name: "Build 1 stale" }));
    expect(await screen.findByText("the disk is full; free some space and build again")).toBeTruthy();
  });

  test("files that are dropped are sent with their folders, and what is known of them stands on the board", async () => {
    const sent: FormData[] = [];
    class Sent {
      upload = {};
      status = 201;
      responseText = JSON.stringify({ props: [], messages: [] });
      onload?: () => void;
      open = () => undefined;
      setRequestHeader = () => undefined;
      abort = () => undefined;
      send(form: FormData) {
        sent.push(form);
      }
    }
    vi.stubGlobal("XMLHttpRequest", Sent);
    await open();
    const file = Object.assign(new File(["o crate"], "crate.obj"), { path: "./props/crate.obj" });
    fireEvent.change(screen.getByLabelText("Add props"), { target: { files: [file] } });
    expect(await screen.findByText("sending 1 file · 0 %")).toBeTruthy();
    const [form] = sent;
    const values = [...(form?.entries() ?? [])].map(([, value]) => (value instanceof File ? value.name : value));
    expect(values.join(" ")).toContain("props/crate.obj");
    expect(screen.getByRole("progressbar", { name: "upload" })).toBeTruthy();
    vi.unstubAllGlobals();
  });

  test("a board that cannot be read says why", async () => {
    serve({
      "GET /api/props/changes": () => {
        throw new Refusal(503, "the store is being upgraded; try again in a minute");
      },
    });
    mount(<YardView />);
    expect(await screen.findByText("The board cannot be read")).toBeTruthy();
    expect(screen.getByText("the store is being upgraded; try again in a minute")).toBeTruthy();
  });
});
