import type { PropDetail } from "../../api/client";
import { count, dimensions } from "../../parts/format";

/** The prop's figures, each beside what it is compared with. */
export function TopFigures({ prop }: { prop: PropDetail }) {
  const { facts } = prop;
  const materials = (facts.materials as string[] | undefined)?.length ?? 0;
  const size = facts.size as number[] | undefined;
  return (
    <dl className="flex gap-6">
      <Against label="triangles LOD0" value={prop.levels[0]?.triangles ?? (facts.triangles as number | undefined)} limit={prop.triangle_budget} />
      <Against label="engine vertices" value={facts.engine_vertices as number | undefined} limit={prop.vertex_limit} />
      <Against label="materials" value={materials} limit={prop.material_budget} />
      <div className="border-l border-rule pl-3 leading-4">
        <dt className="text-sm text-quiet">size</dt>
        <dd className="figure">{size ? `${dimensions(size)} m` : "–"}</dd>
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
        {over && <span className="ml-1.5 font-semibold text-watch">◆ over</span>}
      </dd>
    </div>
  );
}
