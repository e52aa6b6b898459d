import { expect, test } from "vitest";

import type { Finding, Severity } from "./client";
import { hasPlaces, severityOf, sorted } from "./findings";

const finding = (station: string, severity: Severity, points: number[][][] = []): Finding =>
  ({ code: severity, station, severity, places: { kind: "edges", points } }) as unknown as Finding;

test("a station is as severe as its severest finding, whatever the code", () => {
  const findings = [
    finding("cleanup", "info"),
    finding("cleanup", "warning"),
    finding("normals", "info"),
    finding("levels", "stop"),
  ];
  expect(["cleanup", "normals", "levels", "naming"].map((name) => severityOf(name, findings))).toEqual([
    "warning",
    "fine",
    "stop",
    "fine",
  ]);
  expect(sorted(findings).map(({ severity }) => severity)).toEqual(["stop", "warning", "info", "info"]);
});

test("only a finding with places is led to", () => {
  expect(hasPlaces(finding("source", "info"))).toBe(false);
  expect(hasPlaces(finding("source", "info", [[[0, 0, 0]]]))).toBe(true);
  expect(hasPlaces({ code: "x", severity: "info" } as unknown as Finding)).toBe(false);
});
