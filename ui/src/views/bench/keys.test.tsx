import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { beforeEach, expect, test, vi } from "vitest";

import type { Finding } from "../../api/client";
import { crateWith } from "../../testing/crate";
import { mount } from "../../testing/mount";
import { askedBy, Refusal, serve } from "../../testing/server";
import { choose } from "../../testing/station";
import { useBench } from "../../stations/bench";
import type { Station } from "../../stations/station";
import BenchView from "./BenchView";

interface Told {
  mode: string;
  figure: boolean;
  finding: Finding | null;
  place: number | null;
  stamp: number;
}

// No graphics here: the stage says what it was told to draw.
vi.mock("./BenchStage", () => ({
  BenchStage: ({ mode, figure, finding, place, stamp }: Told) => (
    <ul aria-label="stage">
      <li>{mode}</li>
      <li>{figure ? "with figure" : "no figure"}</li>
      <li>{finding ? `${finding.code} at ${place ?? "all"}` : "no finding"}</li>
      <li>{`framed ${stamp} times`}</li>
    </ul>
  ),
}));
const MODEL = { levels: [{}, {}, {}] };
vi.mock("../../viewport/model", async (original) => ({
  ...(await original<object>()),
  useModel: () => ({ model: MODEL, loading: false, error: null, retry: () => undefined }),
}));
vi.mock("../../app/activity", () => ({ useActivity: () => ({ jobs: [], connected: true }) }));
const places = (...points: number[][]) => ({ points, total: points.length, lines: [], triangles: [] });
const finding = (code: string, more: object = {}): Finding =>
  ({
    code,
    station: "cleanup",
    severity: "warning",
    message: `${code} here`,
    count: 1,
    level: null,
    part: null,
    places: null,
    ...more,
  }) as unknown as Finding;

/** A station that says which levels are compared. */
const PLAIN: Station = {
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
      finding("slivers", { severity: "info", places: places([0, 0, 0]) }),
      finding("uvs-missing"),
      finding("open-boundaries", { places: places([0, 0, 0], [1, 0, 0], [2, 0, 0]) }),
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

async function open(more: object = {}) {
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
  mount(<BenchView stations={[PLAIN]} />, { at: "/props/7", route: "/props/:id" });
  await screen.findByLabelText("stage");
}

beforeEach(() => localStorage.clear());

test("V goes through the ways of drawing and begins again", async () => {
  await open();
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
  await open();
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
  const far = finding("level-deviates", { level: 2, station: "levels", places: places([0, 0, 0]) });
  await open({ findings: [far] });
  fireEvent.click(screen.getByText("level-deviates here"));
  expect(levels()).toBe("2");
  expect(stage()[2]).toBe("level-deviates at all");
});

test("P puts the figure beside the prop and takes it away", async () => {
  await open();
  key("p");
  expect(stage()[1]).toBe("with figure");
  key("p");
  expect(stage()[1]).toBe("no figure");
});

test("N leads through the findings that have places, the severest first, and F lets them go", async () => {
  await open();
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
  await open();
  key("]");
  expect(stage()[2], "without a finding there is no place").toBe("no finding");
  key("n");
  const seen = ["]", "]", "]", "]", "[", "["].map((name) => (key(name), stage()[2]));
  expect(seen.map((words) => words?.split(" at ")[1])).toEqual(["0", "1", "2", "0", "2", "1"]);
  key("n");
  expect(stage()[2], "another finding begins with all of its places").toBe("slivers at all");
});

test("Escape lets the finding go first, and then the prop", async () => {
  await open();
  key("n");
  key("Escape");
  expect(stage()[2]).toBe("no finding");
  expect(address()).toBe("/props/7");
  key("Escape");
  expect(address()).toBe("/");
});

test("nothing is taken back where nothing was decided", async () => {
  await open();
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
  await open({ undo: { label: "Levels", is_own: true } });
  key("z", { ctrlKey: true });
  await waitFor(() => expect(askedBy("POST").map(({ path }) => path)).toEqual(["/api/props/7/undo"]));
  await waitFor(() => {
    key("y", { ctrlKey: true });
    expect(askedBy("POST").map(({ path }) => path)).toContain("/api/props/7/redo");
  });
});

test("another's decision is taken back only when that is said", async () => {
  serve({ "POST /api/props/7/undo": crate() });
  await open({ undo: { label: "Levels", is_own: false } });
  key("z", { ctrlKey: true });
  expect(await screen.findByText("“Levels” was decided in another browser")).toBeTruthy();
  expect(askedBy("POST")).toEqual([]);
  fireEvent.click(screen.getByRole("button", { name: "Undo it here" }));
  await waitFor(() => expect(askedBy("POST")).toHaveLength(1));
});

test("another line is decided in view of the version that is shown; what is refused is told", async () => {
  await open({ version: 5 });
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
  mount(<BenchView stations={[PLAIN]} />, { at: "/props/9", route: "/props/:id" });
  expect(await screen.findByText("This prop cannot be shown")).toBeTruthy();
  fireEvent.click(screen.getByRole("link", { name: "Back to the Yard" }));
  expect(address()).toBe("/");
});
