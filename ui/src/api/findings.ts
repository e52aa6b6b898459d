import type { Finding } from "./client";

const ORDER = { stop: 0, warning: 1, info: 2 };

/** Findings, the severest first. */
export function sorted(findings: Finding[]): Finding[] {
  return [...findings].sort((a, b) => ORDER[a.severity] - ORDER[b.severity]);
}

/** Whether a finding can be led to in the view. */
export function hasPlaces(finding: Finding): boolean {
  return (finding.places?.points.length ?? 0) > 0;
}

/** The severest finding of a station; fine where it has none above info. */
export function severityOf(station: string, findings: Finding[]): "fine" | "warning" | "stop" {
  const mine = findings.filter((finding) => finding.station === station);
  if (mine.some((finding) => finding.severity === "stop")) return "stop";
  return mine.some((finding) => finding.severity === "warning") ? "warning" : "fine";
}
