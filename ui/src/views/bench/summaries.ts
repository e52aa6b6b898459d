import type { PropDetail } from "../../api/client";
import { short } from "../../parts/format";

export type StationName = "triangulation" | "normals" | "levels" | "naming";

export const STATIONS: { name: StationName; title: string }[] = [
  { name: "triangulation", title: "Triangulation" },
  { name: "normals", title: "Normals" },
  { name: "levels", title: "Levels" },
  { name: "naming", title: "Naming" },
];

/** The codes of findings that a station's stop answers for. */
const CODES: Record<StationName, string[]> = {
  triangulation: ["concave-quads", "polygons-cross-themselves", "collapsed-faces-dropped"],
  normals: ["winding-disagrees", "shells-inside-out", "edges-crowded", "winding-opposed", "normals-not-unit", "normals-missing"],
  levels: ["level-left-out", "level-not-reached", "level-far-off", "hard-edges-given-up", "counts-not-falling", "triangles-over-budget"],
  naming: ["name-cleaned", "level-name-wrong"],
};

/** What a stop says in one short line. */
export function summary(station: StationName, prop: PropDetail): string {
  const { facts, levels } = prop;
  switch (station) {
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
