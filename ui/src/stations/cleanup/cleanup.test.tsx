import { cleanup, screen, within } from "@testing-library/react";
import { expect, test } from "vitest";

import type { Finding } from "../../api/client";
import { crateWith } from "../../testing/crate";
import { openStation, press, type } from "../../testing/station";
import { CLEANUP } from ".";
import { OpenCleanup } from "./OpenCleanup";

const found = (code: string, message: string, more: Partial<Finding> = {}): Finding => ({
  ...crateWith().findings.find(({ station }) => station === "cleanup")!,
  code,
  message,
  places: null,
  ...more,
});
const faults = () =>
  within(screen.getByRole("region", { name: "Faults found" }))
    .queryAllByRole("row")
    .map((row) => row.textContent);

test("each repair is a switch; a tolerance shows only while its repair is on, in its unit", () => {
  const { decide } = openStation(OpenCleanup, crateWith());
  expect(screen.queryByLabelText("height under")).toBeNull();
  press("Slivers", "checkbox");
  expect(decide).toHaveBeenLastCalledWith("cleanup", { slivers: true });
  type("weld distance", "0.5");
  expect(decide).toHaveBeenLastCalledWith("cleanup", { weld_mm: 0.5 });
});

test("shares are shown in percent and decided as shares", () => {
  const { decide } = openStation(OpenCleanup, crateWith({ settings: { cleanup: { slivers: true } } }));
  expect((screen.getByLabelText("height under") as HTMLInputElement).value).toBe("0.1");
  type("height under", "2");
  expect(decide).toHaveBeenLastCalledWith("cleanup", { sliver_ratio: 0.02 });
  type("Non-planar beyond", "3");
  expect(decide).toHaveBeenLastCalledWith("cleanup", { planarity_ratio: 0.03 });
});

test("what was found says whether it was repaired, and leads to its places", () => {
  const places = { kind: "edges", points: [[[0, 0, 0]]] } as never;
  const open = found("open-boundaries", "1 open boundary; left open", { places });
  const prop = crateWith({
    findings: [
      found("unwelded-vertices", "81 unwelded vertices; welded"),
      open,
      found("checked-after-repair", "all checks ran again"),
      found("hard-edges", "of another station", { station: "normals" }),
    ],
    facts: { cleanup: { repaired: [{ code: "unwelded-vertices", count: 81 }], answer: "nothing left to clean" } },
  });
  const { showFinding } = openStation(OpenCleanup, prop);
  expect(faults()).toEqual([
    "unwelded verticesrepaired81 unwelded vertices; welded",
    "open boundariesleft1 open boundary; left openshow",
  ]);
  expect(screen.getByText("nothing left to clean")).toBeTruthy();
  press("show");
  expect(showFinding).toHaveBeenLastCalledWith(open);
});

test("a finding that is shown can be put away", () => {
  const open = found("open-boundaries", "1 open boundary", {
    places: { kind: "edges", points: [[[0, 0, 0]]] } as never,
  });
  const { showFinding } = openStation(OpenCleanup, crateWith({ findings: [open] }), { finding: open });
  expect(screen.getByRole("button", { name: "show" }).getAttribute("aria-pressed")).toBe("true");
  press("show");
  expect(showFinding).toHaveBeenLastCalledWith(null);
});

test("a clean mesh and one that was not built yet say so", () => {
  openStation(OpenCleanup, crateWith({ findings: [] }));
  expect(faults()).toEqual([]);
  expect(screen.getByText("Nothing was found")).toBeTruthy();
  cleanup();
  openStation(OpenCleanup, { ...crateWith({ findings: [] }), facts: {} });
  expect(screen.getByText("It is told once the prop is built.")).toBeTruthy();
  expect(screen.queryByText("Nothing was found")).toBeNull();
});

test("its stop counts what was repaired and says where some is left", () => {
  const repaired = [
    { code: "unwelded-vertices", count: 81 },
    { code: "zero-area-faces", count: 4 },
  ];
  const summary = (facts: object) => CLEANUP.summary(crateWith({ facts: { cleanup: facts } }));
  expect(summary({ repaired, is_clean: true })).toBe("85 repaired");
  expect(summary({ repaired, is_clean: false })).toBe("85 repaired, some left");
  expect(summary({ repaired: [], is_clean: true })).toBe("nothing to clean");
});
