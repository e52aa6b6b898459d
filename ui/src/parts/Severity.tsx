import type { Readiness, Severity } from "../api/client";

const SHAPES: Record<Severity | "fine", { path: string; color: string }> = {
  stop: { path: "M1 3h8v4H1z", color: "var(--stop)" },
  warning: { path: "M5 0l5 5-5 5-5-5z", color: "var(--warning)" },
  info: { path: "M5 3.4a1.6 1.6 0 110 3.2 1.6 1.6 0 010-3.2z", color: "var(--quiet)" },
  fine: { path: "M5 1a4 4 0 110 8 4 4 0 010-8z", color: "var(--fine)" },
};

/** The shape of a severity: bar, diamond, point; a dot for what is fine. */
export function SeverityShape({ severity }: { severity: Severity | "fine" }) {
  const { path, color } = SHAPES[severity];
  return (
    <svg viewBox="0 0 10 10" className="size-2.5 shrink-0" aria-hidden>
      <path d={path} fill={color} />
    </svg>
  );
}

const READINESS: Record<Readiness, { word: string; shape: Severity | "fine"; color: string }> = {
  ready: { word: "ready", shape: "fine", color: "text-fine" },
  warning: { word: "ready with warnings", shape: "warning", color: "text-warning" },
  held: { word: "held", shape: "stop", color: "text-stop" },
  failed: { word: "failed", shape: "stop", color: "text-stop" },
  cancelled: { word: "cancelled", shape: "info", color: "text-quiet" },
  working: { word: "working", shape: "info", color: "text-quiet" },
};

/** Whether a prop could ship: shape, word and colour. */
export function ReadinessMark({ value }: { value: Readiness }) {
  const { word, shape, color } = READINESS[value];
  return (
    <span className={`inline-flex items-center gap-1.5 font-medium ${color}`}>
      <SeverityShape severity={shape} />
      {word}
    </span>
  );
}

/** Counts by severity, those that are not zero. */
export function SeverityCounts({ stop, warning, info }: { stop: number; warning: number; info: number }) {
  const rows: [Severity, number][] = [
    ["stop", stop],
    ["warning", warning],
    ["info", info],
  ];
  const shown = rows.filter(([, number]) => number > 0);
  if (!shown.length) return <span className="text-quiet">none</span>;
  return (
    <span className="inline-flex gap-3">
      {shown.map(([severity, number]) => (
        <span key={severity} className="inline-flex items-center gap-1" title={`${number} ${severity}`}>
          <SeverityShape severity={severity} />
          <span className="figure">{number}</span>
          <span className="text-sm text-quiet">{severity}</span>
        </span>
      ))}
    </span>
  );
}
