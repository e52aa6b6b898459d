import type { PropDetail } from "../../api/client";
import { count } from "../../parts/format";
import { Heading } from "../../parts/Heading";

type Channel = NonNullable<PropDetail["facts"]["uvs"]>["channels"][number];

const percent = (share: number): string => `${(100 * share).toFixed(share < 0.0995 && share > 0 ? 1 : 0)} %`;
const MADE: Record<Channel["made"], string> = {
  source: "the source's",
  unwrap: "unwrapped",
  box: "projected from six sides",
  planar: "projected flat",
  cylinder: "projected around a cylinder",
  sphere: "projected around a sphere",
  islands: "channel 0's islands, packed anew",
};

/** What each figure says, and whether it is one to look at. */
const ROWS: {
  label: string;
  value: (channel: Channel) => string;
  note?: (channel: Channel) => string | null;
}[] = [
  { label: "comes from", value: ({ made }) => MADE[made] },
  { label: "islands", value: ({ islands }) => count(islands) },
  { label: "of the square used", value: ({ used }) => percent(used) },
  {
    label: "overlapping",
    value: ({ overlap }) => percent(overlap),
    note: ({ mirrored_overlap: mirrored }) => (mirrored ? `${percent(mirrored)} mirrored` : null),
  },
  { label: "outside the square", value: ({ outside }) => percent(outside) },
  {
    label: "flipped islands",
    value: ({ flipped_islands: islands }) => count(islands),
    note: ({ flipped_triangles: folded, zero_area_triangles: flat }) =>
      [folded ? `${count(folded)} triangles folded` : "", flat ? `${count(flat)} without area` : ""]
        .filter(Boolean)
        .join(", ") || null,
  },
  {
    label: "stretch L2 / L∞",
    value: ({ stretch }) => (stretch ? `${stretch.l2.toFixed(3)} / ${stretch.linf.toFixed(2)}` : "–"),
  },
  {
    label: "density, median",
    value: ({ density }) => (density ? `${count(Math.round(density.median))} px/m` : "–"),
    note: ({ density }) =>
      density ? `${count(Math.round(density.least))} to ${count(Math.round(density.largest))}` : null,
  },
  {
    label: "smallest gap",
    value: ({ gap, pixels }) => (gap === null ? "–" : `${gap.toPrecision(2)} px of ${count(pixels)}`),
    note: ({ gap, bleeds_at: mip }) => (gap && mip !== null ? `bleeds from mip ${mip}` : null),
  },
  {
    label: "seams",
    value: ({ seam_edges: edges }) => count(edges),
    note: ({ seam_length: metres, seam_vertices: vertices }) =>
      `${metres.toPrecision(3)} m, ${count(vertices)} engine vertices`,
  },
];

/** Each channel in figures, and the light map of each level. */
export function ChannelFigures({ prop }: { prop: PropDetail }) {
  const facts = prop.facts.uvs;
  const channels = facts?.channels ?? [];
  const light = facts?.light_map;
  return (
    <div className="flex h-full">
      <div className="flex min-w-0 grow flex-col">
        <Heading
          question="Are the UVs sound?"
          reading="Of LOD0: areas as shares of the channel, exact; gaps and density for its texture."
        />
        <div
          className="min-h-0 grow overflow-auto px-4 pb-2"
          tabIndex={0}
          role="region"
          aria-label="UV channels in figures"
        >
          {channels.length ? (
            <table className="w-full">
              <thead>
                <tr className="text-left text-sm text-quiet">
                  <th className="font-normal" />
                  {channels.map((_, index) => (
                    <th key={index} className="py-0.5 pr-4 font-medium">
                      Channel {index}
                      {index === 1 && light ? ", light map" : ""}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {ROWS.map(({ label, value, note }) => (
                  <tr key={label} className="border-t border-rule">
                    <td className="py-0.5 pr-4 whitespace-nowrap text-quiet">{label}</td>
                    {channels.map((channel, index) => (
                      <td key={index} className="pr-4">
                        <span className="figure">{value(channel)}</span>
                        {note?.(channel) && <span className="pl-2 text-sm text-quiet">{note(channel)}</span>}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          ) : (
            <p className="text-quiet">This prop has no UVs.</p>
          )}
        </div>
      </div>
      {light && <LightMaps levels={light.levels} />}
    </div>
  );
}

const HOW = { first: "laid for LOD0", carried: "carried over, holds", anew: "laid anew" };

function LightMaps({
  levels,
}: {
  levels: NonNullable<NonNullable<PropDetail["facts"]["uvs"]>["light_map"]>["levels"];
}) {
  return (
    <div className="w-64 shrink-0 overflow-auto border-l border-rule">
      <Heading question="Does each level have one?" reading="The light map of every level." />
      <table className="mx-4 mt-1">
        <tbody>
          {levels.map(({ level, made, islands }) => (
            <tr key={level}>
              <td className="figure py-0.5 pr-3">LOD{level}</td>
              <td className="pr-3">{HOW[made]}</td>
              <td className="figure text-sm text-quiet">{count(islands)} islands</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
