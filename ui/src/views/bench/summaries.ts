import type { PropDetail } from "../../api/client";
import { count, dimensions, plural, short } from "../../parts/format";

export type StationName = "source" | "placement" | "cleanup" | "triangulation" | "normals" | "levels" | "naming";

export const STATIONS: { name: StationName; title: string }[] = [
  { name: "source", title: "Source" },
  { name: "placement", title: "Placement" },
  { name: "cleanup", title: "Cleanup" },
  { name: "triangulation", title: "Triangulation" },
  { name: "normals", title: "Normals" },
  { name: "levels", title: "Levels" },
  { name: "naming", title: "Naming" },
];

/** The codes of findings that a station's stop answers for. */
export const CODES: Record<StationName, string[]> = {
  source: ["parts-excluded", "choice-lost", "part-gone", "nothing-chosen", "no-faces", "materials-merged", "not-used"],
  placement: ["pivot-off-base", "pivot-moved", "unusual-size", "mark-lost"],
  cleanup: [
    "non-finite-positions", "non-finite-uvs", "invalid-normals", "loose-vertices", "loose-edges", "unwelded-vertices", "duplicate-faces",
    "back-to-back-faces", "two-sided-sheets", "zero-area-faces", "slivers", "t-vertices", "non-manifold-edges", "non-manifold-vertices",
    "inconsistent-winding", "inside-out-shells", "non-orientable-shells", "small-shells", "open-boundaries", "non-planar-polygons",
    "self-intersecting-polygons", "overlapping-faces", "back-to-back-overlaps", "unused-materials", "nothing-left", "checked-after-repair", "faces-flipped-by-hand",
  ],
  triangulation: ["concave-quads", "degenerate-faces-removed", "zero-area-triangles", "engine-cut-breaks", "engine-cut-differs"],
  normals: ["winding-against-normals", "normals-not-unit", "normals-missing"],
  levels: ["level-skipped", "target-not-reached", "level-deviates", "hard-edges-released", "triangles-not-decreasing", "triangles-over-budget"],
  naming: ["name-cleaned", "level-name-wrong"],
};

/** What a stop says in one short line. */
export function summary(station: StationName, prop: PropDetail): string {
  const { facts, levels } = prop;
  switch (station) {
    case "source": {
      const ships = prop.parts.filter((part) => part.ships).length;
      return ships === prop.parts.length ? plural(ships, "part") : `${ships} of ${prop.parts.length} parts`;
    }
    case "placement": {
      const size = facts.size as number[] | undefined;
      return size ? `${dimensions(size)} m` : "";
    }
    case "cleanup": {
      const cleanup = facts.cleanup as { repaired: [string, number][]; left: [string, number][]; is_clean: boolean } | undefined;
      if (!cleanup) return "";
      const repaired = cleanup.repaired.reduce((sum, [, number]) => sum + number, 0);
      if (!cleanup.is_clean) return `${count(repaired)} repaired, some left`;
      return repaired ? `${count(repaired)} repaired` : "nothing to clean";
    }
    case "triangulation": {
      const polygons = facts.polygons as number | undefined;
      return polygons === undefined ? "" : `${short(polygons)} → ${short(levels[0]?.triangles ?? (facts.triangles as number))}`;
    }
    case "normals":
      return (facts.normals as string | undefined) ?? "";
    case "levels": {
      const first = levels[0];
      const last = levels.at(-1);
      if (!first || !last) return "none";
      return levels.length > 1 ? `${levels.length} · ${short(first.triangles)} → ${short(last.triangles)}` : `1 · ${short(first.triangles)}`;
    }
    case "naming":
      return prop.name;
  }
}

/** The severest finding of a station: its stop is drawn in that shape. */
export function stationState(station: StationName, prop: PropDetail): "fine" | "watch" | "stop" {
  const mine = prop.findings.filter((finding) => CODES[station].includes(finding.code));
  if (mine.some((finding) => finding.severity === "stop")) return "stop";
  return mine.some((finding) => finding.severity === "watch") ? "watch" : "fine";
}
