import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { fireEvent, render, screen, waitFor, within } from "@testing-library/react";
import { useEffect } from "react";
import { MemoryRouter, Route, Routes } from "react-router";
import { afterAll, beforeEach, expect, test, vi } from "vitest";

import type { Finding } from "../../api/client";
import { projectQuery, propQuery } from "../../api/queries";
import { ToastProvider } from "../../parts/Toasts";
import { places, useBench, useLevelsShown } from "../../stations/bench";
import { STATIONS } from "../../stations/registry";
import type { Station } from "../../stations/station";
import { crateWith } from "../../testing/crate";
import { mount } from "../../testing/mount";
import { finding } from "../../testing/props";
import { askedBy, Refusal, serve } from "../../testing/server";
import { choose } from "../../testing/station";
import BenchView from "./BenchView";

interface Told {
  shown: { levels: unknown[] | null };
  mode: string;
  figure: boolean;
  finding: Finding | null;
  place: number | null;
  stamp: number;
}

// No graphics here: the stage says what it was told to draw.
vi.mock("./BenchStage", () => ({
  BenchStage: ({ shown, mode, figure, finding, place, stamp }: Told) => (
    <>
      <p>{shown.levels?.length ?? 0} levels in the view</p>
      <ul aria-label="stage">
        <li>{mode}</li>
        <li>{figure ? "with figure" : "no figure"}</li>
        <li>{finding ? `${finding.code} at ${place ?? "all"}` : "no finding"}</li>
        <li>{`framed ${stamp} times`}</li>
      </ul>
    </>
  ),
}));
const loaded = vi.hoisted(() => ({ model: null as { levels: object[] } | null }));
vi.mock("../../viewport/model", async (original) => ({
  ...(await original<object>()),
  useModel: () => ({ ...loaded, loading: false, error: null, retry: () => undefined }),
}));
vi.mock("../../app/activity", () => ({ useActivity: () => ({ jobs: [], connected: true }) }));

const PROP = {
  waivers: [],
  waivable: [],
  id: 7,
  name: "crate",
  line: "standing",
  readiness: "warning",
  triangle_budget: 1000,
  material_budget: 2,
  vertex_limit: 65535,
  materials: 1,
  findings: [
    {
      code: "salt",
      station: "rust",
      severity: "warning",
      message: "salt on 3 faces",
      count: 3,
      level: null,
      places: null,
    },
  ],
  levels: [
    { index: 0, triangles: 1200, vertices: 800 },
    { index: 1, triangles: 300, vertices: 220 },
  ],
  settings: {},
  facts: { source: crateWith().facts.source },
  names: [],
  model: null,
  undo: null,
  redo: null,
};

const mounted = vi.fn();
let isBroken = false;

function OpenRust() {
  const { prop } = useBench();
  useLevelsShown();
  useEffect(() => {
    mounted(1);
    return () => mounted(-1);
  }, []);
  if (isBroken) throw new Error("broken");
  return (
    <>
      <places.settings.In>
        <label>
          grain <input defaultValue="3" />
        </label>
      </places.settings.In>
      <places.evidence.In>
        <p>rust on {prop.name}</p>
      </places.evidence.In>
    </>
  );
}

const RUST: Station = { name: "rust", title: "Rust", summary: () => "3 faces", keys: [], Open: OpenRust };
const PLAIN: Station = { ...RUST, name: "plain", title: "Plain", summary: () => "as it is", Open: () => null };

function open(stations: Station[], prop: object = PROP) {
  const queries = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity, retry: false } } });
  queries.setQueryData(propQuery(7).queryKey, prop as never);
  queries.setQueryData(projectQuery.queryKey, { name: "Skerry Light", lines: [], destinations: [] } as never);
  return render(
    <QueryClientProvider client={queries}>
      <ToastProvider>
        <MemoryRouter initialEntries={["/bench/7"]}>
          <Routes>
            <Route path="/bench/:id" element={<BenchView stations={stations} />} />
          </Routes>
        </MemoryRouter>
      </ToastProvider>
    </QueryClientProvider>,
  );
}

beforeEach(() => {
  loaded.model = null;
  isBroken = false;
  mounted.mockClear();
});

afterAll(() => {
  loaded.model = null;
});

test("a new station has its stop, settings, evidence and view by being in the list", () => {
  open([PLAIN, RUST]);
  expect(screen.getByRole("button", { name: /Rust/ }).textContent).toContain("3 faces");
  expect(mounted).not.toHaveBeenCalled();
  fireEvent.click(screen.getByRole("button", { name: /Rust/ }));
  expect(screen.getByLabelText("grain")).toBeTruthy();
  expect(screen.getByText("rust on crate")).toBeTruthy();
  expect(screen.getByText("2 levels in the view")).toBeTruthy();
});

test("of what was not built yet no station says what it made", () => {
  open([PLAIN, RUST], { ...PROP, facts: {}, findings: [] });
  expect(screen.getByRole("button", { name: /Rust/ }).textContent).toBe("Rust");
});

test("only the open station is mounted", () => {
  open([PLAIN, RUST]);
  fireEvent.click(screen.getByRole("button", { name: /Rust/ }));
  fireEvent.click(screen.getByRole("button", { name: /Plain/ }));
  expect(mounted.mock.calls).toEqual([[1], [-1]]);
  expect(screen.queryByText("rust on crate")).toBeNull();
  expect(screen.queryByLabelText("grain")).toBeNull();
});

test("a station that fails leaves the line and the findings standing", () => {
  vi.spyOn(console, "error").mockImplementation(() => undefined);
  isBroken = true;
  open([PLAIN, RUST]);
  fireEvent.click(screen.getByRole("button", { name: /Rust/ }));
  expect(screen.getByRole("alert").textContent).toContain("Rust could not be shown");
  expect(screen.getByText("salt on 3 faces")).toBeTruthy();
  isBroken = false;
  fireEvent.click(screen.getByRole("button", { name: "Try again" }));
  expect(screen.getByText("rust on crate")).toBeTruthy();
});

test("every station of the product has a name and a title of its own, and keys that do not clash", () => {
  expect(new Set(STATIONS.map(({ name }) => name)).size).toBe(STATIONS.length);
  expect(new Set(STATIONS.map(({ title }) => title)).size).toBe(STATIONS.length);
  for (const { keys } of STATIONS) expect(new Set(keys.map(([key]) => key)).size).toBe(keys.length);
});

const placed = (...points: number[][]) => ({ kind: "vertices" as const, points: points.map((point) => [point]) });
/** A station that says which levels are compared. */
const COMPARED: Station = {
  name: "levels",
  title: "Levels",
  summary: () => "3 levels",
  keys: [],
  Open: function Compared() {
    const { left, right, split } = useBench();
    return <output aria-label="levels">{split === null ? `${left}` : `${left} | ${right} at ${split}`}</output>;
  },
};
const levels = () => screen.getByLabelText("levels").textContent;

const crate = (more: object = {}) =>
  crateWith({
    id: 7,
    findings: [
      finding("info", "slivers", { places: placed([0, 0, 0]) }),
      finding("warning", "uvs-missing"),
      finding("warning", "open-boundaries", { places: placed([0, 0, 0], [1, 0, 0], [2, 0, 0]) }),
    ],
    undo: null,
    redo: null,
    ...more,
  });

const stage = () =>
  within(screen.getByLabelText("stage"))
    .getAllByRole("listitem")
    .map((item) => item.textContent);
const key = (name: string, more: object = {}) => fireEvent.keyDown(document.body, { key: name, ...more });
const address = () => screen.getByLabelText("address").textContent;

async function openCrate(more: object = {}) {
  loaded.model = { levels: [{}, {}, {}] };
  serve({
    "GET /api/props/7": crate(more),
    "GET /api/project": {
      name: "Skerry Light",
      lines: [
        { name: "standing", title: "Standing" },
        { name: "held", title: "Held" },
      ],
      destinations: [],
    },
    "GET /api/props/changes": { order: [], rows: [] },
  });
  mount(<BenchView stations={[COMPARED]} />, { at: "/props/7", route: "/props/:id" });
  await screen.findByLabelText("stage");
}

test("V goes through the ways of drawing and begins again", async () => {
  await openCrate();
  const first = stage()[0];
  const seen = new Set([first]);
  for (let k = 0; k < 20; k += 1) {
    key("v");
    if (stage()[0] === first) break;
    seen.add(stage()[0]);
  }
  expect(stage()[0], "it comes round").toBe(first);
  expect(seen.size).toBeGreaterThan(3);
});

test("digits show a level, with Shift they compare it, and levels that are not there are none", async () => {
  await openCrate();
  key("2", { code: "Digit2" });
  expect(levels()).toBe("2");
  key("5", { code: "Digit5" });
  expect(levels(), "there are three").toBe("2");
  key("!", { code: "Digit1", shiftKey: true });
  expect(levels()).toBe("2 | 1 at 0.5");
  key("x");
  expect(levels()).toBe("2");
  key("x");
  expect(levels(), "what was compared last").toBe("2 | 1 at 0.5");
});

test("a finding of a level shows that level", async () => {
  const far = finding("warning", "level-deviates", { level: 2, places: placed([0, 0, 0]) });
  await openCrate({ findings: [far] });
  fireEvent.click(screen.getByText("level-deviates here"));
  expect(levels()).toBe("2");
  expect(stage()[2]).toBe("level-deviates at all");
});

test("so it does where N leads to it", async () => {
  await openCrate({ findings: [finding("warning", "level-deviates", { level: 2, places: placed([0, 0, 0]) })] });
  key("n");
  expect([levels(), stage()[2]]).toEqual(["2", "level-deviates at all"]);
});

test("P puts the figure beside the prop and takes it away", async () => {
  await openCrate();
  key("p");
  expect(stage()[1]).toBe("with figure");
  key("p");
  expect(stage()[1]).toBe("no figure");
});

test("N leads through the findings that have places, the severest first, and F lets them go", async () => {
  await openCrate();
  key("n");
  expect(stage()[2], "one that has no place is passed over").toBe("open-boundaries at all");
  key("n");
  expect(stage()[2]).toBe("slivers at all");
  key("n");
  expect(stage()[2]).toBe("open-boundaries at all");
  key("f");
  expect(stage().slice(2)).toEqual(["no finding", "framed 1 times"]);
});

test("brackets go from place to place of a finding, round at both ends", async () => {
  await openCrate();
  key("]");
  expect(stage()[2], "without a finding there is no place").toBe("no finding");
  key("n");
  const seen = ["]", "]", "]", "]", "[", "["].map((name) => (key(name), stage()[2]));
  expect(seen.map((words) => words?.split(" at ")[1])).toEqual(["0", "1", "2", "0", "2", "1"]);
  key("n");
  expect(stage()[2], "another finding begins with all of its places").toBe("slivers at all");
});

test("Escape lets the finding go first, and then the prop", async () => {
  await openCrate();
  key("n");
  key("Escape");
  expect(stage()[2]).toBe("no finding");
  expect(address()).toBe("/props/7");
  key("Escape");
  expect(address()).toBe("/");
});

test("nothing is taken back where nothing was decided", async () => {
  await openCrate();
  key("z", { ctrlKey: true });
  key("z", { ctrlKey: true, shiftKey: true });
  key("y", { ctrlKey: true });
  expect(askedBy("POST")).toEqual([]);
});

test("one's own last decision is taken back, and again", async () => {
  serve({
    "POST /api/props/7/undo": crate({ undo: null, redo: { label: "Levels", is_own: true } }),
    "POST /api/props/7/redo": crate(),
  });
  await openCrate({ undo: { label: "Levels", is_own: true } });
  key("z", { ctrlKey: true });
  await waitFor(() => expect(askedBy("POST").map(({ path }) => path)).toEqual(["/api/props/7/undo"]));
  await waitFor(() => {
    key("y", { ctrlKey: true });
    expect(askedBy("POST").map(({ path }) => path)).toContain("/api/props/7/redo");
  });
});

test("another's decision is taken back only when that is said", async () => {
  serve({ "POST /api/props/7/undo": crate() });
  await openCrate({ undo: { label: "Levels", is_own: false } });
  key("z", { ctrlKey: true });
  expect(await screen.findByText("“Levels” was decided in another browser")).toBeTruthy();
  expect(askedBy("POST")).toEqual([]);
  fireEvent.click(screen.getByRole("button", { name: "Undo it here" }));
  await waitFor(() => expect(askedBy("POST")).toHaveLength(1));
});

test("another line is decided in view of the version that is shown; what is refused is told", async () => {
  await openCrate({ version: 5 });
  serve({
    "PATCH /api/props/7/line": () => {
      throw new Refusal(422, "the line 'held' was removed");
    },
  });
  await waitFor(() => choose("Line", "Held"));
  expect(await screen.findByText("the line 'held' was removed")).toBeTruthy();
  expect(askedBy("PATCH").map(({ body }) => body)).toEqual([{ line: "held", version: 5 }]);
});

test("a prop that is not there leads back to the Yard", async () => {
  serve({
    "GET /api/props/9": () => {
      throw new Refusal(404, "there is no prop 9");
    },
  });
  mount(<BenchView stations={[COMPARED]} />, { at: "/props/9", route: "/props/:id" });
  expect(await screen.findByText("This prop cannot be shown")).toBeTruthy();
  fireEvent.click(screen.getByRole("link", { name: "Back to the Yard" }));
  expect(address()).toBe("/");
});
