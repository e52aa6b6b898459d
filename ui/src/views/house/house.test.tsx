import { fireEvent, screen, within } from "@testing-library/react";
import { beforeEach, expect, test } from "vitest";

import { mount } from "../../testing/mount";
import { board, propRow } from "../../testing/props";
import { askedBy, Refusal, serve } from "../../testing/server";
import { choose, press, type } from "../../testing/station";
import type { Entry } from "./api";
import HouseView from "./HouseView";
import { forgetDraft } from "./useDraft";

const schema = {
  properties: {
    name: { type: "string" },
    title: { type: "string" },
    level_template: { type: "string", default: "{prop}_LOD{level}", description: "name of a level's node" },
    max_materials: { anyOf: [{ type: "integer", minimum: 1 }, { type: "null" }], default: null },
  },
};
const lineSchema = {
  properties: {
    name: { type: "string" },
    budget: { properties: { triangles: { anyOf: [{ type: "integer" }, { type: "null" }], unit: "tris" } } },
    normals: { properties: { angle: { type: "number", unit: "°", default: 38 } } },
  },
};
const data = { name: "plain", title: "Plain", level_template: "{prop}_LOD{level}", max_materials: null };
const entry = (more: Partial<Entry> = {}): Entry => ({
  kind: "destination",
  name: "plain",
  title: "Plain",
  number: 2,
  is_ours: true,
  data,
  came: null,
  versions: [
    {
      number: 2,
      by: "Ada",
      created: "2026-03-02T10:15:00Z",
      changes: [{ field: "textures.largest", before: 8192, after: 4096 }],
    },
    { number: 0, by: "", created: null, changes: [] },
  ],
  users: [],
  ...more,
});
const figures = {
  vertices: 900,
  triangles: [1200, 300],
  materials: 3,
  channels: 1,
  proxies: 0,
  texture_mib: 1,
  largest_image: 1024,
};
const named = (id: number, name: string, more: object = {}) => ({
  id,
  name,
  files: [`${name}.glb`],
  nodes: [`${name}_LOD0`, `${name}_LOD1`],
  materials: ["wood"],
  clash: "",
  left: [],
  figures,
  ...more,
});
const drafted = { faults: [], changes: [], props: [named(1, "crate"), named(2, "lamp", { left: ["lamp_LOD0.stl"] })] };
const row = { name: "plain", title: "Plain", number: 2, is_ours: true, users: 0, stale: 0 };

beforeEach(() => {
  localStorage.clear();
  for (const key of ["destination plain", "destination ", "line standing"]) forgetDraft(key);
  serve({
    "GET /api/catalogue/destination": [row],
    "GET /api/catalogue/destination/schema": schema,
    "GET /api/catalogue/destination/plain": entry(),
    "POST /api/catalogue/destination/draft": drafted,
    "GET /api/props/changes": board([propRow(1, "crate"), propRow(2, "lamp")]),
  });
});

const open = async (at = "/destinations/plain") => {
  mount(<HouseView kind="destination" />, { at, route: "/destinations/:name?" });
  await screen.findByRole("region", { name: "Names" });
  await screen.findAllByText("crate_LOD0");
};

test("a change stands beside what it was, can be undone, and is saved as a version with who made it", async () => {
  serve({ "POST /api/catalogue/destination": entry({ number: 3 }) });
  await open();
  expect(screen.getByText("version 2")).toBeTruthy();
  type("Level template", "{prop}-{level}");
  expect(await screen.findByText("was {prop}_LOD{level}")).toBeTruthy();
  press("Undo");
  expect(screen.queryByText("was {prop}_LOD{level}")).toBeNull();
  press("Redo");
  type("Your name", "Ada");
  press("Save");
  await screen.findByText("Plain: version 3 saved");
  const [saved] = askedBy("POST").filter(({ path }) => path === "/api/catalogue/destination");
  expect(saved?.body).toEqual({ data: { ...data, level_template: "{prop}-{level}" }, by: "Ada", seen: 2 });
});

test("a fault is told at its field and its character, and nothing can be saved", async () => {
  await open();
  const fault = { field: "level_template", message: "there is no {lvl}", place: 7 };
  serve({ "POST /api/catalogue/destination/draft": { faults: [fault], changes: [], props: [] } });
  type("Level template", "{prop}_{lvl}");
  const told = await screen.findByRole("alert");
  expect(told.textContent).toBe("{prop}_{lvl}there is no {lvl}");
  expect(within(told).getByText("{").tagName).toBe("MARK");
  expect(screen.getByRole("button", { name: "Save" })).toHaveProperty("disabled", true);
  expect(screen.getAllByText("crate_LOD0").length, "the names stand as they were last").toBeGreaterThan(0);
});

test("names that clash and files that are left behind are told of each prop", async () => {
  const clash = "'crate' and 'lamp' both ship a.glb";
  serve({
    "POST /api/catalogue/destination/draft": { ...drafted, props: [named(1, "crate", { clash }), drafted.props[1]] },
  });
  await open();
  expect(screen.getByText(clash)).toBeTruthy();
  expect(screen.getByText(", 1 of them would write the same files and are held")).toBeTruthy();
  expect(screen.getByText("leaves lamp_LOD0.stl behind")).toBeTruthy();
});

test("a limit is a handle among the props that it holds back", async () => {
  await open();
  expect(screen.getByText("2 props, the largest 3 materials")).toBeTruthy();
  type("Max materials", "2");
  expect(await screen.findByText("2 of 2 props over it")).toBeTruthy();
  fireEvent.keyDown(screen.getByRole("slider", { name: "Max materials, among the props" }), { key: "End" });
  expect(await screen.findByText("2 props, the largest 3 materials")).toBeTruthy();
});

test("versions tell who changed what, and one can be gone back to", async () => {
  serve({ "POST /api/catalogue/destination/plain/restore": entry({ number: 3 }) });
  await open();
  fireEvent.click(screen.getByRole("radio", { name: "History 2" }));
  expect(screen.getByText(/by Ada/)).toBeTruthy();
  expect(screen.getByText("Textures, largest:")).toBeTruthy();
  press("Back to this");
  await screen.findByText("Plain: version 3 saved");
  const [restored] = askedBy("POST").filter(({ path }) => path.endsWith("/restore"));
  expect(restored?.body).toEqual({ number: 0, seen: 2, by: "" });
});

test("a draft is tried on props, and what would come of it is shown beside what is", async () => {
  const before = {
    status: "shipped",
    levels: [{ name: "crate_LOD0", triangles: 1200, vertices: 900, deviation: 0 }],
    bytes: 2048,
    picture: null,
    findings: [{ code: "a", severity: "warning", message: "too large", count: 1, level: null, part: null }],
  };
  const after = {
    ...before,
    bytes: 1024,
    levels: [{ ...before.levels[0], triangles: 600 }],
    findings: [{ ...before.findings[0], message: "no light map" }],
  };
  const files = [{ path: "crate.glb", bytes: 1024, sha256: "abcdef0123", address: "/api/files/abc.bin" }];
  const waiting = { prop: 1, name: "crate", state: "waiting", error: "", before: null, after: null, files: [] };
  serve({
    "POST /api/catalogue/destination/trial": { id: 9, fraction: 0, doing: "", rows: [waiting] },
    "GET /api/trials/9": { id: 9, fraction: 1, doing: "", rows: [{ ...waiting, state: "done", before, after, files }] },
  });
  await open();
  fireEvent.click(screen.getByRole("radio", { name: "Trial" }));
  fireEvent.click(await screen.findByRole("checkbox", { name: "Try lamp" }));
  press("Try on 2 props");
  const result = within(await screen.findByRole("region", { name: "Trial of crate" }));
  expect(result.getByText("−50 %", { exact: false })).toBeTruthy();
  expect(result.getByText("gone: too large", { exact: false })).toBeTruthy();
  expect(result.getByText("no light map")).toBeTruthy();
  expect(result.getByRole("link", { name: "crate.glb" }).getAttribute("href")).toBe("/api/files/abc.bin");
  expect(askedBy("POST").find(({ path }) => path.endsWith("/trial"))?.body).toEqual({ data, props: [1, 2] });
});

test("a refusal of the server is told, and the draft stays", async () => {
  serve({
    "POST /api/catalogue/destination": () => {
      throw new Refusal(422, "'plain' was saved by another meanwhile");
    },
  });
  await open();
  type("Title", "Ours");
  press("Save");
  expect(await screen.findByText("'plain' was saved by another meanwhile")).toBeTruthy();
  expect(screen.getByText("was Plain")).toBeTruthy();
});

test("own settings of props go back to the line or into it, and stale props are built", async () => {
  const overrides = [
    { field: "normals.angle", before: 38, after: 20 },
    { field: "normals.hard", before: [], after: [[1]] },
  ];
  const line = entry({
    kind: "line",
    name: "standing",
    users: [{ id: 4, name: "crate", is_stale: true, overrides }],
    data: { name: "standing", title: "Standing", normals: { angle: 38 }, budget: { triangles: 20 } },
  });
  serve({
    "GET /api/catalogue/line": [{ ...row, name: "standing", users: 1, stale: 1 }],
    "GET /api/catalogue/line/schema": lineSchema,
    "GET /api/catalogue/line/standing": line,
    "POST /api/catalogue/line/draft": drafted,
    "POST /api/lines/bring-back": { count: 1 },
    "POST /api/lines/take-over": line,
    "POST /api/lines/build-stale": { count: 1 },
  });
  mount(<HouseView kind="line" />, { at: "/lines/standing", route: "/lines/:name?" });
  fireEvent.click(await screen.findByRole("radio", { name: "Props 1" }));
  expect(screen.getByText("by hand")).toBeTruthy();
  press("Back to the line");
  press("Into the line");
  press("Build 1");
  await screen.findByText("1 stale", { exact: false });
  const bodies = Object.fromEntries(askedBy("POST").map(({ path, body }) => [path, body]));
  expect(bodies["/api/lines/bring-back"]).toEqual({ props: [4], fields: ["normals.angle"] });
  expect(bodies["/api/lines/take-over"]).toEqual({ prop: 4, fields: ["normals.angle"], seen: 2, by: "" });
});

test("rules are sentences that are changed in place", async () => {
  const rules = [{ of: "name", pattern: "door_*", line: "hinged", fits: ["door_a"] }];
  serve({
    "GET /api/catalogue/line": [
      { ...row, name: "hinged", title: "Hinged" },
      { ...row, name: "held", title: "Held" },
    ],
    "GET /api/line-rules": rules,
    "POST /api/line-rules": rules,
  });
  mount(<HouseView kind="line" />, { at: "/lines/rules", route: "/lines/:name?" });
  expect(await screen.findByText("fits door_a of the board")).toBeTruthy();
  choose("Line of rule 1", "Held");
  type("Pattern of rule 1", "lid_*");
  press("Add a rule");
  await screen.findByText("fits door_a of the board");
  const bodies = askedBy("POST").map(({ body }) => (body as { rules: object[] }).rules);
  expect(bodies[0]).toEqual([{ of: "name", pattern: "door_*", line: "held" }]);
  expect(bodies[1]).toEqual([{ of: "name", pattern: "lid_*", line: "hinged" }]);
  expect(bodies[2]).toHaveLength(2);
});
