import { fireEvent, render, screen, within } from "@testing-library/react";
import { expect, test, vi } from "vitest";

import { crateWith } from "../../testing/crate";
import { mount } from "../../testing/mount";
import { finding } from "../../testing/props";
import { press } from "../../testing/station";
import { STATIONS } from "../../stations/registry";
import { BenchHeader } from "./BenchHeader";
import { DisputeDialog } from "./DisputeDialog";
import { EvidencePanel } from "./EvidencePanel";
import { FindingsList } from "./FindingsList";
import { LevelChip } from "./LevelChips";
import { LineRail } from "./LineRail";
import { NothingToDraw } from "./stage/NothingToDraw";
import { BuildFailed, Building, PlaceStepper } from "./stage/Notices";

const figures = () =>
  Object.fromEntries(
    [...document.querySelectorAll("dl > div")].map((one) => [
      one.querySelector("dt")!.textContent,
      one.querySelector("dd")!.textContent,
    ]),
  );

function header(changes: Parameters<typeof crateWith>[0]) {
  const spies = { onUndo: vi.fn(), onRedo: vi.fn(), onShip: vi.fn(), onRebuild: vi.fn() };
  mount(<BenchHeader project="Skerry Light" prop={crateWith(changes)} {...spies} />);
  return spies;
}

test("the prop's figures stand beside their budgets; one over says so", () => {
  header({ triangle_budget: 300, material_budget: null });
  expect(figures()).toEqual({
    "triangles LOD0": "384 / 300◆ over",
    "engine vertices": "243 / 65\u202f535",
    materials: "2",
    size: "1.00 × 0.76 × 1.00 m",
  });
});

test("before a build the source's own figures stand there, and nothing where there is none", () => {
  const { source } = crateWith().facts;
  header({ levels: [], facts: { source: { ...source, triangles: 384 }, placement: undefined } });
  expect(figures()["triangles LOD0"]).toBe("384 / 20\u202f000");
});

test("a build that was called off leaves what was before in view, says so, and can be begun again", () => {
  const { onRebuild } = header({ readiness: "cancelled", model: "/model.glb" });
  expect(screen.getByText("last change not built")).toBeTruthy();
  press("Build");
  expect(onRebuild).toHaveBeenCalledTimes(1);
});

test("nothing is behind where a build is done, and none is offered where nothing was built", () => {
  header({ readiness: "ready" });
  header({ readiness: "cancelled", model: null });
  expect(screen.queryByRole("button", { name: "Build" })).toBeNull();
});

test("undo and redo name what they take back, and whose it was", () => {
  const { onUndo } = header({ undo: { label: "Normals: angle 38", is_own: false } as never, redo: null });
  const undo = screen.getByRole("button", { name: "Undo" });
  expect(undo.title).toBe("Undo: Normals: angle 38 (decided in another browser)");
  fireEvent.click(undo);
  expect(onUndo).toHaveBeenCalledTimes(1);
  const redo = screen.getByRole<HTMLButtonElement>("button", { name: "Redo" });
  expect([redo.title, redo.disabled]).toEqual(["nothing to redo", true]);
});

test("findings stand with the gravest first; one is shown and put away", () => {
  const onShow = vi.fn();
  const places = { kind: "edges", points: [[[0, 0, 0]]] } as never;
  const stop = finding("stop", "file-name-taken");
  const list = [finding("info", "open-boundaries", { places }), finding("warning", "level-deviates"), stop];
  const { rerender } = render(<FindingsList findings={list} shown={null} onShow={onShow} />);
  const rows = screen.getAllByRole("button");
  expect(rows.map((row) => row.textContent)).toEqual([
    expect.stringContaining("stop · file name taken"),
    expect.stringContaining("warning · level deviates"),
    expect.stringMatching(/info · open boundaries.*show/),
  ]);
  fireEvent.click(rows[0]!);
  expect(onShow).toHaveBeenLastCalledWith(stop);
  rerender(<FindingsList findings={list} shown={stop} onShow={onShow} />);
  fireEvent.click(screen.getAllByRole("button")[0]!);
  expect(onShow).toHaveBeenLastCalledWith(null);
});

test("a prop without findings says so", () => {
  render(<FindingsList findings={[]} shown={null} onShow={vi.fn()} />);
  expect(screen.getByText("no findings")).toBeTruthy();
});

test("each level is a choice; below the first its counts stand against LOD0", () => {
  const onLevel = vi.fn();
  const { levels } = crateWith();
  const { rerender } = render(<LevelChip levels={levels} index={0} label="Level" onLevel={onLevel} />);
  expect(screen.getByText("384 tris · 243 verts")).toBeTruthy();
  fireEvent.click(screen.getAllByRole("radio")[2]!);
  expect(onLevel).toHaveBeenLastCalledWith(2);
  rerender(<LevelChip levels={levels} index={2} label="Level" onLevel={onLevel} />);
  expect(screen.getByText(/384 → 95 tris/).textContent).toMatch(/384 → 95 tris −75/);
  expect(screen.getAllByRole("radio").map((one) => one.textContent)).toEqual(["0", "1", "LOD2", "3"]);
  rerender(<LevelChip levels={levels} index={-1} label="Level" onLevel={onLevel} />);
  expect(screen.queryByText(/tris/), "another picture is shown").toBeNull();
});

test("each station is a stop with its summary and the gravest of its findings; the open one holds its settings", () => {
  const onOpen = vi.fn();
  const prop = crateWith({ findings: [finding("warning", "level-deviates"), finding("stop", "too-many-levels")] });
  render(
    <LineRail prop={prop} stations={STATIONS} open="normals" onOpen={onOpen}>
      <p>settings of the normals</p>
    </LineRail>,
  );
  const stops = screen.getAllByRole("button");
  expect(stops.map((stop) => stop.textContent)).toEqual([
    "Source3 parts",
    expect.stringContaining("Placement"),
    expect.stringContaining("Cleanup"),
    expect.stringContaining("Triangulation"),
    "Normalsby angle 38°",
    "UVs3 islands",
    expect.stringContaining("Levels"),
    "Textures2 textures, 2.7 MiB",
    "Collisionnone",
    expect.stringContaining("Naming"),
  ]);
  expect(stops[4]!.getAttribute("aria-expanded")).toBe("true");
  expect(within(stops[4]!.closest("li")!).getByText("settings of the normals")).toBeTruthy();
  expect(within(stops[6]!).getByText("stop"), "told to those who do not see its shape").toBeTruthy();
  fireEvent.click(stops[6]!);
  expect(onOpen).toHaveBeenLastCalledWith("levels");
});

test("a stop that opens is brought into view, since what closes above it may have been long", () => {
  const brought = vi.spyOn(Element.prototype, "scrollIntoView");
  const rail = (open: string) => (
    <LineRail prop={crateWith()} stations={STATIONS} open={open} onOpen={vi.fn()}>
      <p>its settings</p>
    </LineRail>
  );
  const { rerender } = render(rail("levels"));
  rerender(rail("naming"));
  expect(brought.mock.contexts.at(-1)).toBe(screen.getAllByRole("button").at(-1));
  expect(brought).toHaveBeenLastCalledWith({ block: "nearest" });
  brought.mockRestore();
});

test("the evidence folds away and comes back", () => {
  render(
    <EvidencePanel>
      <p>chart</p>
    </EvidencePanel>,
  );
  press("Fold the evidence");
  expect(screen.queryByText("chart")).toBeNull();
  press("Show the evidence");
  expect(screen.getByText("chart")).toBeTruthy();
});

test("two browsers' values stand side by side, and closing the question keeps theirs", () => {
  const [keepTheirs, useMine] = [vi.fn(), vi.fn()];
  const rows = [{ key: "normals.angle", label: "Normals: angle", theirs: "20", yours: "50" }];
  render(<DisputeDialog dispute={{ rows, keepTheirs, useMine }} />);
  expect(screen.getByRole("row", { name: /angle/ }).textContent).toBe("Normals: angle2050");
  press("Use mine");
  expect([useMine.mock.calls.length, keepTheirs.mock.calls.length]).toEqual([1, 0]);
  fireEvent.keyDown(screen.getByRole("dialog"), { key: "Escape" });
  expect(keepTheirs).toHaveBeenCalledTimes(1);
});

const stage = (readiness: string, more: object = {}) => {
  const spies = { onRebuild: vi.fn(), onRetry: vi.fn() };
  render(<NothingToDraw prop={{ readiness, error: "" }} loading={false} problem={null} {...spies} {...more} />);
  return spies;
};

test("without a model the view says why: held, called off, failed to load", () => {
  const { onRebuild } = stage("cancelled");
  expect(screen.getByText(/The build was called off/)).toBeTruthy();
  press("Build it");
  expect(onRebuild).toHaveBeenCalledTimes(1);
});

test("a model that does not load can be asked for again", () => {
  const { onRetry } = stage("ready", { problem: "the connection was lost" });
  expect(screen.getByText(/the connection was lost/)).toBeTruthy();
  press("Try again");
  expect(onRetry).toHaveBeenCalledTimes(1);
});

test("a held prop points to its findings", () => {
  stage("held");
  expect(screen.getByText(/A finding holds this prop back/)).toBeTruthy();
  expect(screen.queryByRole("button")).toBeNull();
});

test("places are stepped through, and more than are drawn are counted", () => {
  const onStep = vi.fn();
  const one = finding("info", "open-boundaries", { count: 500 });
  const { rerender } = render(<PlaceStepper finding={one} place={null} count={200} onStep={onStep} />);
  expect(screen.getByText("all 200 of 500")).toBeTruthy();
  press("Next place");
  press("Place before");
  expect(onStep.mock.calls).toEqual([[1], [-1]]);
  rerender(<PlaceStepper finding={{ ...one, count: 200 }} place={3} count={200} onStep={onStep} />);
  expect(screen.getByText("4 / 200")).toBeTruthy();
});

test("a build says what it does and how far it is, and can be called off; one that failed, why", () => {
  const [onCancel, onRebuild] = [vi.fn(), vi.fn()];
  const job = { id: 3, kind: "build", subject: 1, state: "running", fraction: 0.25, doing: "" } as never;
  const { rerender } = render(<Building job={job} onCancel={onCancel} />);
  expect(screen.getByText("waiting for its turn")).toBeTruthy();
  expect(screen.getByRole("progressbar").getAttribute("aria-valuenow")).toBe("25");
  press("Cancel");
  expect(onCancel).toHaveBeenCalledTimes(1);
  rerender(<BuildFailed error="crate.obj: it took longer than 900 s" onRebuild={onRebuild} />);
  expect(screen.getByRole("alert").textContent).toContain("longer than 900 s");
  press("Build again");
  expect(onRebuild).toHaveBeenCalledTimes(1);
});
