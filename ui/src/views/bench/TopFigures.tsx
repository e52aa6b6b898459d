import type { PropDetail } from "../../api/client";
import { count, dimensions } from "../../parts/format";

/** The prop's figures, each beside what it is compared with. */
export function TopFigures({ prop }: { prop: PropDetail }) {
  const { facts } = prop;
  const size = facts.placement?.size;
  return (
    <dl className="flex gap-6 whitespace-nowrap">
      <Against
        label="triangles LOD0"
        value={prop.levels[0]?.triangles ?? facts.source?.triangles}
        limit={prop.triangle_budget}
      />
      <Against
        label="engine vertices"
        value={prop.levels[0]?.vertices ?? facts.source?.engine_vertices}
        limit={prop.vertex_limit}
      />
      <Against label="materials" value={facts.source?.materials.length} limit={prop.material_budget} />
      <div className="border-l border-rule pl-3 leading-4">
        <dt className="text-sm text-quiet">size</dt>
        <dd className="figure">{size ? dimensions(size) : "–"}</dd>
      </div>
    </dl>
  );
}

function Against({ label, value, limit }: { label: string; value: number | undefined; limit: number | null }) {
  const over = value !== undefined && limit !== null && value > limit;
  return (
    <div className="border-l border-rule pl-3 leading-4">
      <dt className="text-sm text-quiet">{label}</dt>
      <dd className="figure">
        {value === undefined ? "–" : count(value)}
        {limit !== null && <span className="text-quiet"> / {count(limit)}</span>}
        {over && <span className="ml-1.5 font-semibold text-warning">◆ over</span>}
      </dd>
    </div>
  );
}
