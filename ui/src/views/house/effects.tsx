/** What settings do to the props of the board, beside the settings themselves. */
import type { ReactNode } from "react";

import type { Draft, NamedProp } from "./api";
import { valueAt, type Data } from "./schema";
import { Strip } from "./Strip";

type Figures = NonNullable<NamedProp["figures"]>;

interface Measure {
  unit: string;
  of: (figures: Figures) => number;
  whole?: boolean;
}

const LOD0: Measure = { unit: "tris", of: ({ triangles }) => triangles[0] ?? 0 };
const MATERIALS: Measure = { unit: "materials", of: ({ materials }) => materials };
const MEASURES: Record<string, Measure> = {
  max_engine_vertices: { unit: "vertices", of: ({ vertices }) => vertices },
  max_triangles: LOD0,
  max_materials: MATERIALS,
  max_proxies: { unit: "proxies", of: ({ proxies }) => proxies },
  max_uv_channels: { unit: "channels", of: ({ channels }) => channels },
  "textures.largest": { unit: "px", of: ({ largest_image }) => largest_image },
  "textures.budget_mib": { unit: "MiB", of: ({ texture_mib }) => texture_mib, whole: false },
  "budget.triangles": LOD0,
  "budget.materials": MATERIALS,
};

/** Names that a setting makes, of one prop. */
const NAMES: Record<string, (prop: NamedProp) => string[]> = {
  file_template: ({ files }) => files.slice(0, 1),
  level_template: ({ nodes }) => nodes.slice(0, 3),
  first_level: ({ nodes }) => nodes.slice(0, 2),
  lod0_suffix: ({ nodes }) => nodes.slice(0, 2),
  material_template: ({ materials }) => materials.slice(0, 2),
  proxy_template: ({ nodes, figures }) => (figures?.proxies ? nodes.slice(-figures.proxies).slice(0, 2) : []),
  format: ({ files }) => files.slice(0, 3),
  "naming.prefix": ({ files }) => files.slice(0, 1),
  "naming.suffix": ({ files }) => files.slice(0, 1),
  "naming.case": ({ files }) => files.slice(0, 1),
  "naming.longest": ({ files }) => files.slice(0, 1),
};

/** The effect of the setting at a path; nothing where only a trial shows it. */
export function effectOf(
  path: string,
  label: string,
  data: Data,
  draft: Draft | undefined,
  onChange: (value: unknown) => void,
): ReactNode {
  const props = draft?.props ?? [];
  const measure = MEASURES[path];
  if (measure) {
    const values = props.flatMap(({ name, figures }) => (figures ? [{ name, value: measure.of(figures) }] : []));
    if (!values.length) return null;
    const given = valueAt(data, path);
    const limit = Array.isArray(given) ? ((given[0] as number | undefined) ?? null) : (given as number | null);
    const put = (next: number) => onChange(Array.isArray(given) ? [next, ...(given.slice(1) as number[])] : next);
    return (
      <Strip
        label={label}
        values={values}
        limit={limit}
        unit={measure.unit}
        whole={measure.whole ?? true}
        onLimit={put}
      />
    );
  }
  const names = NAMES[path];
  if (!names) return null;
  const example = props.find((prop) => names(prop).length > 0);
  if (!example) return null;
  return (
    <div className="figure text-sm">
      {names(example).map((name) => (
        <div key={name} className="truncate" title={name}>
          {name}
        </div>
      ))}
    </div>
  );
}
