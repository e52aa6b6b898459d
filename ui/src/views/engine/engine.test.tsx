import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { beforeEach, expect, test, vi } from "vitest";

import type { EngineAsset, SeenProp } from "../../api/client";
import { mount } from "../../testing/mount";
import { askedBy, serve } from "../../testing/server";
import { type } from "../../testing/station";
import EngineView from "./EngineView";
import { levelAt } from "./levels";
import { SeenPanel } from "./SeenPanel";
import { speedOf } from "./steering";

vi.mock("../../app/activity", () => ({ useActivity: () => ({ jobs: [], connected: true }) }));
vi.mock("./Walk", () => ({ Walk: () => <div role="img" aria-label="scene" /> }));

const SEEN: SeenProp = {
  prop: "crate",
  levels: [
    {
      name: "crate_LOD0",
      number: 0,
      triangles: 1200,
      vertices: 70000,
      draws: 2,
      parts: ["lid"],
      pieces: 2,
      pieces_16: 2,
      wide: true,
    },
    {
      name: "crateLOD1",
      number: null,
      triangles: 300,
      vertices: 400,
      draws: 2,
      parts: [],
      pieces: 1,
      pieces_16: 1,
      wide: false,
    },
  ],
  materials: [
    {
      name: "wood",
      levels: [0],
      maps: [
        {
          slot: "base_color",
          path: "textures/wood.dds",
          state: "found",
          format: "DDS BC7",
          width: 512,
          height: 256,
          levels: 10,
        },
        { slot: "normal", path: "textures/wood_n.dds", state: "missing", format: "", width: 0, height: 0, levels: 1 },
      ],
    },
  ],
  proxies: [{ name: "crate_collision_0", number: 0, triangles: 12, fault: "is not convex" }],
  size: [1, 0.5, 1],
  lowest: [-0.5, 0, -0.5],
  place: [0, 0, 0],
  up: "y",
  metres: 1,
  uv_channels: [0, 1],
  light_map: { channel: 1, state: "overlaps", covered_twice: 0.25, outside: 0 },
  tangents: "there",
  drawn_from_behind: 0.125,
};

const asset = (id: number, more: Partial<EngineAsset> = {}): EngineAsset => ({
  id,
  path: `prop_${id}.glb`,
  change: "same",
  seen: { ...SEEN, prop: `prop_${id}` },
  findings: [],
  error: "",
  distances: [0, 5],
  model: null,
  x: 1,
  z: 2,
  turn: 0,
  ...more,
});

const engine = (assets: EngineAsset[], more: object = {}) => ({
  id: 3,
  root: "/srv/game",
  folder: "props",
  destination: "plain",
  indices: 16,
  vertex_limit: 65535,
  is_importing: false,
  error: "",
  imports: 1,
  noticed: [],
  assets,
  ...more,
});

beforeEach(() => {
  localStorage.clear();
  serve({
    "GET /api/project": { name: "", lines: [], destinations: [{ name: "plain", title: "Plain GLB" }] },
    "GET /api/engine": engine([asset(1, { change: "changed" }), asset(2, { change: "vanished" })], {
      noticed: ["new.glb"],
    }),
  });
});

test("what is new, changed or vanished is noticed, and imported when that is asked", async () => {
  serve({ "POST /api/engine/3/import": engine([asset(1)], { is_importing: true }) });
  mount(<EngineView />);
  expect(await screen.findByText("1 new, 1 changed, 1 vanished")).toBeTruthy();
  expect(screen.getByText("new.glb")).toBeTruthy();
  expect(screen.getByText("vanished")).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Import 2 files" }));
  expect(await screen.findByRole("button", { name: "importing …" })).toHaveProperty("disabled", true);
});

test("an asset is placed by numbers, and taken out of the scene", async () => {
  serve({
    "PATCH /api/engine/3/assets/1": engine([asset(1, { x: 4 })]),
    "DELETE /api/engine/3/assets/1": engine([]),
  });
  mount(<EngineView />);
  fireEvent.click(await screen.findByRole("button", { name: /^prop_1/ }));
  type("x", "4");
  await waitFor(() => expect(askedBy("PATCH")[0]?.body).toEqual({ x: 4, z: 2, turn: 0 }));
  fireEvent.click(screen.getByRole("radio", { name: "Read back" }));
  expect(screen.getByRole("heading", { name: "prop_1" })).toBeTruthy();
  fireEvent.click(screen.getByRole("button", { name: "Take out of the scene" }));
  await waitFor(() => expect(askedBy("DELETE")).toHaveLength(1));
  expect(await screen.findByText("Nothing lies in this folder yet. Deliver a shipment into it.")).toBeTruthy();
});

test("what an engine sees is told with what is wrong about it", () => {
  const finding = {
    code: "level-name-wrong",
    severity: "stop" as const,
    message: "not named",
    count: 1,
    level: 1,
    part: null,
  };
  mount(<SeenPanel seen={SEEN} findings={[finding]} limit={65535} wantsLightMap />);
  const chain = screen.getByRole("region", { name: "Chain" });
  expect(within(chain).getByText("meshes at 16 bits")).toBeTruthy();
  expect(within(chain).getByText("no level")).toBeTruthy();
  expect(within(screen.getByRole("region", { name: "Findings" })).getByText(/not named/)).toBeTruthy();
  const materials = screen.getByRole("region", { name: "Materials, in the file's order" });
  expect(within(materials).getByText("512 × 256 DDS BC7, 10 mips")).toBeTruthy();
  expect(within(materials).getByText("missing")).toBeTruthy();
  expect(screen.getByText("overlaps on 25.0 % of its texels")).toBeTruthy();
  expect(screen.getByText("is not convex")).toBeTruthy();
  expect(screen.getByText("at the foot")).toBeTruthy();
  expect(screen.getByRole("img", { name: "1.00 × 0.50 × 1.00 m beside a figure of 1.8 m" })).toBeTruthy();
});

test.each([
  [0, 1, 0],
  [4.9, 1, 0],
  [5, 1, 1],
  [25, 1, 2],
  [25, 4, 1],
  [3, 0.5, 1],
])("at %d m with a bias of %d an engine draws LOD%d", (distance, bias, level) => {
  expect(levelAt([0, 5, 20], distance, bias)).toBe(level);
});

test("keys walk where the eye is turned, two at once no faster than one, and Shift runs", () => {
  const ahead = speedOf(new Set(["w"]), 0);
  expect(ahead.toArray().map((v) => Number(v.toFixed(3)))).toEqual([0, 0, -1.6]);
  const turned = speedOf(new Set(["ArrowUp"]), Math.PI / 2);
  expect(turned.x).toBeCloseTo(-1.6);
  expect(speedOf(new Set(["w", "d"]), 0).length()).toBeCloseTo(1.6);
  expect(speedOf(new Set(["w", "Shift"]), 0).length()).toBeCloseTo(4);
  expect(speedOf(new Set(["w", "s"]), 0).length()).toBe(0);
  expect(speedOf(new Set(["x"]), 0).length()).toBe(0);
});
