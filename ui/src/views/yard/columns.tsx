import { createColumnHelper } from "@tanstack/react-table";

import type { PropRow, Readiness } from "../../api/client";
import { bytes, count, dimensions } from "../../parts/format";
import { Progress } from "../../parts/Progress";
import { ReadinessMark, SeverityCounts } from "../../parts/Severity";
import { Sounding } from "./Sounding";

/** How far from shipping, the farthest first. */
const ORDER: Record<Readiness, number> = { failed: 0, cancelled: 1, held: 2, working: 3, warning: 4, ready: 5 };
const column = createColumnHelper<PropRow>();

/** The board's columns; figures stand beside what they are compared with. */
export const COLUMNS = [
  column.accessor("name", {
    header: "prop",
    size: 224,
    cell: ({ row: { original: prop } }) => (
      <div className="flex items-center gap-3">
        {prop.picture ? (
          <img src={prop.picture} alt="" className="size-11 shrink-0 object-contain" loading="lazy" />
        ) : (
          <div className="size-11 shrink-0 bg-rule/40" />
        )}
        <div className="min-w-0">
          <div className="truncate font-semibold">{prop.name}</div>
          <div className="truncate text-sm text-quiet" title={prop.source_name}>
            {prop.is_stale && <span className="text-warning">line changed since · </span>}
            {prop.source_name} · {bytes(prop.source_bytes)}
          </div>
        </div>
      </div>
    ),
  }),
  column.accessor("triangles", {
    header: "triangles LOD0",
    size: 146,
    cell: ({ row: { original: prop } }) => <Sounding value={prop.triangles} budget={prop.triangle_budget} />,
  }),
  column.accessor("engine_vertices", {
    header: "engine vertices",
    size: 146,
    cell: ({ row: { original: prop } }) => <Sounding value={prop.engine_vertices} budget={prop.vertex_limit} />,
  }),
  column.accessor("levels", {
    header: "levels",
    size: 138,
    cell: ({ row: { original: prop } }) =>
      prop.levels && prop.last_triangles !== null ? (
        <span className="figure whitespace-nowrap">
          {prop.levels} <span className="text-quiet">→ {count(prop.last_triangles)} tris</span>
        </span>
      ) : (
        <span className="text-quiet">{prop.readiness === "working" ? "–" : "none"}</span>
      ),
  }),
  column.accessor("materials", {
    header: "materials",
    size: 72,
    cell: ({ row: { original: prop } }) =>
      prop.materials === null ? null : (
        <span className="figure">
          <span
            className={prop.material_budget !== null && prop.materials > prop.material_budget ? "text-warning" : ""}
          >
            {prop.materials}
          </span>
          {prop.material_budget !== null && <span className="text-quiet"> / {prop.material_budget}</span>}
        </span>
      ),
  }),
  column.accessor((prop) => (prop.size ? Math.max(...prop.size) : -1), {
    id: "size",
    header: "size",
    size: 168,
    cell: ({ row: { original: prop } }) =>
      prop.size ? <span className="figure whitespace-nowrap">{dimensions(prop.size)}</span> : null,
  }),
  column.accessor((prop) => ORDER[prop.readiness], {
    id: "readiness",
    header: "readiness",
    size: 152,
    cell: ({ row: { original: prop } }) => <ReadinessMark value={prop.readiness} />,
  }),
  column.accessor((prop) => prop.stops * 1e6 + prop.warnings * 1e3 + prop.infos, {
    id: "findings",
    header: "findings",
    size: 154,
    cell: ({ row: { original: prop } }) =>
      prop.error ? (
        <span className="line-clamp-2 text-sm text-stop" title={prop.error}>
          {prop.error}
        </span>
      ) : prop.format === null || prop.format === undefined ? (
        <span className="text-quiet">–</span>
      ) : (
        <SeverityCounts stop={prop.stops} warning={prop.warnings} info={prop.infos} />
      ),
  }),
];

/** The thin bar of a prop that is being built. */
export function RowProgress({ fraction, doing }: { fraction: number; doing: string }) {
  return (
    <div className="absolute inset-x-0 bottom-0" title={doing}>
      <Progress label={doing || "waiting"} fraction={fraction} />
    </div>
  );
}
