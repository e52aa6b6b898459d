import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { fireEvent, render, screen } from "@testing-library/react";
import { useEffect } from "react";
import { MemoryRouter, Route, Routes } from "react-router";
import { beforeEach, expect, test, vi } from "vitest";

import { projectQuery, propQuery } from "../../api/queries";
import { ToastProvider } from "../../parts/Toasts";
import { places, useBench, useLevelsShown } from "../../stations/bench";
import { STATIONS } from "../../stations/registry";
import type { Station } from "../../stations/station";
import BenchView from "./BenchView";

// No graphics here: the stage says only what it was told to draw.
vi.mock("./BenchStage", () => ({
  BenchStage: ({ shown }: { shown: { levels: unknown[] | null } }) => (
    <p>{shown.levels?.length ?? 0} levels in the view</p>
  ),
}));
vi.mock("../../viewport/model", async (original) => ({
  ...(await original<object>()),
  useModel: () => ({ model: null, loading: false, error: null, retry: () => undefined }),
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
  facts: {},
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

function open(stations: Station[]) {
  const queries = new QueryClient({ defaultOptions: { queries: { staleTime: Infinity, retry: false } } });
  queries.setQueryData(propQuery(7).queryKey, PROP as never);
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
  isBroken = false;
  mounted.mockClear();
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
