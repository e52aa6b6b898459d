import { fireEvent, screen, waitFor } from "@testing-library/react";
import { beforeEach, expect, test, vi } from "vitest";

import { mount } from "../../testing/mount";
import { board, propRow } from "../../testing/props";
import { askedBy, Refusal, serve } from "../../testing/server";
import { YardView } from "./YardView";

vi.mock("../../app/activity", () => ({ useActivity: () => ({ jobs: [], connected: true }) }));
// There is no layout here: every row is in sight.
vi.mock("@tanstack/react-virtual", () => ({
  useVirtualizer: ({ count }: { count: number }) => ({
    getTotalSize: () => 54 * count,
    getVirtualItems: () => Array.from({ length: count }, (_, index) => ({ index, start: 54 * index })),
    scrollToIndex: () => undefined,
  }),
}));

const PROPS = [propRow(1, "crate"), propRow(2, "lamp", { is_stale: true }), propRow(3, "anchor")];

beforeEach(() => {
  serve({
    "GET /api/props/changes": board(PROPS),
    "GET /api/project": { name: "Harbour", lines: [], destinations: [], has_demo: false },
  });
});

const open = async () => {
  mount(<YardView />);
  await screen.findByText("crate");
};
const row = (name: string) => screen.getByLabelText(`Select ${name}`).closest('[role="row"]') as HTMLElement;
const box = (name: string) => screen.getByLabelText(name).getAttribute("aria-checked");
const address = () => decodeURIComponent(screen.getByLabelText("address").textContent ?? "");

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
