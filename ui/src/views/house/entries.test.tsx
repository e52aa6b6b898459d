import { fireEvent, screen, waitFor } from "@testing-library/react";
import { beforeEach, expect, test, vi } from "vitest";

import { mount } from "../../testing/mount";
import { board } from "../../testing/props";
import { askedBy, Refusal, serve } from "../../testing/server";
import { choose, press, type } from "../../testing/station";
import type { Entry } from "./api";
import HouseView from "./HouseView";
import { forgetDraft } from "./useDraft";

const schema = { properties: { name: { type: "string" }, title: { type: "string" } } };
const row = (name: string, more: object = {}) => ({
  name,
  title: name.charAt(0).toUpperCase() + name.slice(1),
  number: 1,
  is_ours: false,
  users: 0,
  stale: 0,
  ...more,
});
const entry = (more: Partial<Entry> = {}): Entry => ({
  kind: "destination",
  name: "harbour",
  title: "Harbour",
  number: 1,
  is_ours: false,
  data: { name: "harbour", title: "Harbour" },
  came: null,
  versions: [],
  users: [],
  ...more,
});

beforeEach(() => {
  localStorage.clear();
  for (const key of ["destination harbour", "destination plain", "destination "]) forgetDraft(key);
  serve({
    "GET /api/catalogue/destination": [row("harbour"), row("plain", { is_ours: true })],
    "GET /api/catalogue/destination/schema": schema,
    "GET /api/catalogue/destination/harbour": entry(),
    "GET /api/catalogue/destination/plain": entry({ name: "plain", title: "Plain", is_ours: true }),
    "POST /api/catalogue/destination/draft": { faults: [], changes: [], props: [] },
    "GET /api/props/changes": board([]),
  });
});

const open = async (at: string) => {
  mount(<HouseView kind="destination" />, { at, route: "/destinations/:name?" });
  await screen.findByRole("region", { name: "What it is" });
};
const address = () => screen.getByLabelText("address").textContent;
const bring = (text: string) => {
  const file = new File([text], "theirs.json", { type: "application/json" });
  fireEvent.change(screen.getByLabelText("Import a destination"), { target: { files: [file] } });
};

test("without a name the one that props use is opened", async () => {
  serve({ "GET /api/catalogue/destination": [row("plain"), row("harbour", { users: 3, stale: 2 })] });
  await open("/destinations");
  expect(address()).toBe("/destinations/harbour");
  expect(screen.getByText("· 3 props", { exact: false })).toBeTruthy();
  expect(screen.getByText("· 2 stale")).toBeTruthy();
});

test.each(["{", "3", "null", '["a"]'])("a file that holds %s is told by its name, and the page stays", async (text) => {
  await open("/destinations/harbour");
  bring(text);
  expect(await screen.findByText("theirs.json: holds no destination; export one to see how it looks")).toBeTruthy();
  expect(address()).toBe("/destinations/harbour");
});

test("a file becomes a draft of its own, under another name where there is one of its name", async () => {
  serve({ "POST /api/catalogue/destination": entry({ name: "harbour-copy", title: "Their harbour" }) });
  await open("/destinations/plain");
  bring(JSON.stringify({ name: "harbour", title: "Their harbour" }));
  expect(await screen.findByRole("heading", { name: "A new destination" })).toBeTruthy();
  expect(screen.getByText("not saved yet")).toBeTruthy();
  press("Save");
  await waitFor(() => expect(address()).toBe("/destinations/harbour-copy"));
  const [saved] = askedBy("POST").filter(({ path }) => path === "/api/catalogue/destination");
  expect(saved?.body, "nothing was seen before").toEqual({
    data: { name: "harbour-copy", title: "Their harbour" },
    by: "",
  });
});

test("a copy begins with what is drafted, and what was drafted stays where it was", async () => {
  await open("/destinations/harbour");
  type("Title", "North harbour");
  press("Copy as new");
  expect(await screen.findByRole("heading", { name: "A new destination" })).toBeTruthy();
  expect(screen.getByLabelText("Name")).toHaveProperty("value", "harbour-copy");
  expect(screen.getByLabelText("Title")).toHaveProperty("value", "North harbour, copy");
  expect(askedBy("POST").every(({ path }) => path.endsWith("/draft"))).toBe(true);
});

test("what is drafted is exported, saved or not", async () => {
  const blobs: Blob[] = [];
  vi.spyOn(URL, "createObjectURL").mockImplementation((blob) => (blobs.push(blob as Blob), "blob:one"));
  const released = vi.spyOn(URL, "revokeObjectURL").mockImplementation(() => undefined);
  let name = "";
  vi.spyOn(HTMLAnchorElement.prototype, "click").mockImplementation(function (this: HTMLAnchorElement) {
    name = this.download;
  });
  await open("/destinations/harbour");
  type("Title", "North harbour");
  press("Export");
  expect(name).toBe("harbour.json");
  expect(JSON.parse(await blobs[0]!.text())).toEqual({ name: "harbour", title: "North harbour" });
  expect(released).toHaveBeenCalledExactlyOnceWith("blob:one");
  vi.restoreAllMocks();
});

test("one of the house's own cannot be removed; another is, by whoever says so", async () => {
  serve({ "POST /api/catalogue/destination/harbour/remove": {} });
  await open("/destinations/plain");
  expect(screen.queryByText("Remove")).toBeNull();
  fireEvent.click(screen.getByRole("link", { name: /^Harbour/ }));
  await screen.findByText("Remove");
  type("Your name", "Ada");
  serve({ "GET /api/catalogue/destination": [row("plain", { is_ours: true })] });
  press("Remove");
  expect(await screen.findByText("Harbour is gone")).toBeTruthy();
  await waitFor(() => expect(address()).toBe("/destinations/plain"));
  expect(askedBy("POST").find(({ path }) => path.endsWith("/remove"))?.body).toEqual({ by: "Ada" });
  expect(localStorage.getItem("plindro.by"), "the name is known next time").toBe("Ada");
});

test("a line that is removed comes back with the rules that named it", async () => {
  const rules = [{ of: "name", pattern: "lid_*", line: "lids" }];
  const lids = entry({ kind: "line", name: "lids", title: "Lids", data: { name: "lids", title: "Lids" } });
  serve({
    "GET /api/catalogue/line": [row("lids"), row("standing", { is_ours: true })],
    "GET /api/catalogue/line/schema": schema,
    "GET /api/catalogue/line/lids": lids,
    "GET /api/catalogue/line/standing": entry({ kind: "line", name: "standing", is_ours: true }),
    "POST /api/catalogue/line/draft": { faults: [], changes: [], props: [] },
    "GET /api/line-rules": rules,
    "POST /api/line-rules": rules,
    "POST /api/catalogue/line/lids/remove": {},
    "POST /api/catalogue/line": lids,
  });
  mount(<HouseView kind="line" />, { at: "/lines/lids", route: "/lines/:name?" });
  await screen.findByText("Remove");
  serve({ "GET /api/catalogue/line": [row("standing", { is_ours: true })] });
  press("Remove");
  fireEvent.click(await screen.findByText("Undo"));
  const sent = (to: string) => askedBy("POST").find(({ path }) => path === to)?.body;
  await waitFor(() => expect(sent("/api/line-rules")).toEqual({ rules }));
  expect(sent("/api/catalogue/line")).toEqual({ data: { name: "lids", title: "Lids" }, by: "" });
  await waitFor(() => expect(address()).toBe("/lines/lids"));
});

test("a copy is of what is copied, whatever new one was begun before", async () => {
  await open("/destinations/harbour");
  press("Copy as new");
  await waitFor(() => expect(screen.getByLabelText("Title")).toHaveProperty("value", "Harbour, copy"));
  type("Title", "Half done");
  fireEvent.click(screen.getByRole("link", { name: /^Plain/ }));
  serve({ "GET /api/catalogue/destination/plain": entry({ name: "plain", title: "Plain" }) });
  await screen.findByRole("heading", { name: "Plain" });
  press("Copy as new");
  await waitFor(() => expect(screen.getByLabelText("Title")).toHaveProperty("value", "Harbour, copy"));
});

test("one that cannot be removed stays, with the server's sentence", async () => {
  serve({
    "POST /api/catalogue/destination/harbour/remove": () => {
      throw new Refusal(409, "3 props ship to 'harbour'; choose another for them first");
    },
  });
  await open("/destinations/harbour");
  press("Remove");
  expect(await screen.findByText("3 props ship to 'harbour'; choose another for them first")).toBeTruthy();
  expect(address()).toBe("/destinations/harbour");
});

test("after a save the props built by what it was are told, and built from there", async () => {
  const users = [1, 2].map((id) => ({ id, name: `prop ${id}`, is_stale: true, overrides: [] }));
  serve({
    "POST /api/catalogue/destination": entry({ number: 2, users }),
    "POST /api/lines/build-stale": { count: 2 },
  });
  await open("/destinations/harbour");
  type("Title", "North harbour");
  press("Save");
  expect(await screen.findByText("2 props are built by what it was; build them when it suits")).toBeTruthy();
  press("Build 2");
  await waitFor(() => expect(askedBy("POST").map(({ path }) => path)).toContain("/api/lines/build-stale"));
});

test("what is named in the address and is not there is told", async () => {
  mount(<HouseView kind="destination" />, { at: "/destinations/south", route: "/destinations/:name?" });
  expect(await screen.findByText("There is no such destination")).toBeTruthy();
});

test("rules change their order and their kind, and what fits is told as it is", async () => {
  const rules = [
    { of: "name", pattern: "lid_*", line: "held", fits: ["a", "b", "c", "d", "e", "f", "g"] },
    { of: "folder", pattern: "doors/*", line: "held", fits: [] },
    { of: "name", pattern: "none", line: "held", fits: [] },
  ];
  const bare = rules.map(({ of, pattern, line }) => ({ of, pattern, line }));
  serve({
    "GET /api/catalogue/line": [row("held")],
    "GET /api/line-rules": rules,
    "POST /api/line-rules": () => {
      throw new Refusal(422, "rule 1: there is no line 'held' any more");
    },
  });
  mount(<HouseView kind="line" />, { at: "/lines/rules", route: "/lines/:name?" });
  expect(await screen.findByText("fits a, b, c, d, e and 2 more of the board")).toBeTruthy();
  expect(screen.getByText("folders are known when a source comes")).toBeTruthy();
  expect(screen.getByText("fits none of the board")).toBeTruthy();
  expect(screen.getByLabelText("Rule 1 earlier")).toHaveProperty("disabled", true);
  press("Rule 2 earlier");
  expect(await screen.findByText("rule 1: there is no line 'held' any more")).toBeTruthy();
  choose("What rule 1 looks at", "folder");
  press("Remove rule 3");
  await waitFor(() => expect(askedBy("POST")).toHaveLength(3));
  const sent = askedBy("POST").map(({ body }) => (body as { rules: object[] }).rules);
  expect(sent[0]).toEqual([bare[1], bare[0], bare[2]]);
  expect(sent[1], "what was refused was not taken").toEqual([{ ...bare[0], of: "folder" }, bare[1], bare[2]]);
  expect(sent[2]).toEqual([bare[0], bare[1]]);
  expect(screen.queryByText("Rule 3 is gone"), "what was refused is not undone").toBeNull();
  serve({ "POST /api/line-rules": rules.slice(1) });
  press("Remove rule 1");
  fireEvent.click(await screen.findByRole("button", { name: "Undo" }));
  await waitFor(() => expect(askedBy("POST").at(-1)?.body).toEqual({ rules: bare }));
});
