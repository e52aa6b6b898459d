import type { PropDetail } from "../../api/client";
import { count, factor, length, pixels, plural, toThree } from "../../parts/format";
import { Heading } from "../../parts/Heading";

type Facts = NonNullable<PropDetail["facts"]["uvs"]>;
type Channel = Facts["channels"][number];
type LightMap = NonNullable<Facts["light_map"]>;

/** A share in percent; what is less than a tenth of one, and not nothing, says so. */
const percent = (share: number): string =>
  share > 0 && share < 0.001 ? "< 0.1 %" : `${(100 * share).toFixed(share < 0.0995 && share > 0 ? 1 : 0)} %`;
/** Whole pixels a metre, unless they are few. */
const perMetre = (density: number): string => (density < 10 ? toThree(density) : count(Math.round(density)));
const MADE: Record<Channel["made"], string> = {
  source: "the source's",
  repack: "the source's islands, repacked",
  unwrap: "unwrapped",
  box: "projected from six sides",
  planar: "projected flat",
  cylinder: "projected around a cylinder",
  sphere: "projected around a sphere",
  islands: "channel 0's islands",
};

/** What each figure says, and whether it is one to look at. */
const ROWS: {
  label: string;
  value: (channel: Channel) => string;
  note?: (channel: Channel) => string | null;
}[] = [
  { label: "islands", value: ({ islands }) => count(islands) },
  { label: "square used", value: ({ used }) => percent(used) },
  {
    label: "overlapping",
    value: ({ overlap }) => percent(overlap),
    note: ({ mirrored_overlap: mirrored }) => (mirrored ? `${percent(mirrored)} mirrored` : null),
  },
  { label: "outside", value: ({ outside }) => percent(outside) },
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
    value: ({ stretch }) => (stretch ? `${factor(stretch.l2, 3)} / ${factor(stretch.linf, 2)}` : "–"),
  },
  {
    label: "density, px/m",
    value: ({ density }) => (density ? perMetre(density.median) : "–"),
    note: ({ density }) => (density ? `${perMetre(density.least)} to ${perMetre(density.largest)}` : null),
  },
  {
    label: "smallest gap",
    value: ({ gap }) => (gap === null ? "–" : pixels(gap)),
    note: ({ gap, bleeds_at: mip, pixels: side }) =>
      gap && mip !== null ? `of ${count(side)}, mip ${mip} bleeds` : `of ${count(side)}`,
  },
  {
    label: "seams",
    value: ({ seam_edges: edges }) => count(edges),
    note: ({ seam_length: seams, seam_vertices: vertices }) => `${length(seams)}, +${count(vertices)} verts`,
  },
];

/** Each channel in figures, and the light map of each level. */
export function ChannelFigures({ prop }: { prop: PropDetail }) {
  const facts = prop.facts.uvs;
  const channels = facts?.channels ?? [];
  const light = facts?.light_map;
  return (
    <div className="flex h-full flex-col">
      <Heading
        question="Are the UVs sound?"
        reading="Of LOD0: areas as exact shares of the channel; density as median, least to largest; gaps in pixels of its texture."
      />
      <div
        className="min-h-0 grow overflow-auto px-4 pb-2"
        tabIndex={0}
        role="region"
        aria-label="UV channels in figures"
      >
        {channels.length ? (
          <>
            <table className="w-full">
              <thead>
                <tr className="text-left align-bottom text-sm text-quiet">
                  <th className="py-0.5 pr-4 font-normal">channel</th>
                  {ROWS.map(({ label }) => (
                    <th key={label} className="py-0.5 pr-4 font-normal">
                      {label}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {channels.map((channel, index) => (
                  <tr key={index} className="border-t border-rule align-top">
                    <th className="py-1 pr-4 text-left font-medium">
                      {index}
                      <span className="block text-sm font-normal whitespace-nowrap text-quiet">
                        {index === 1 && light ? "light map, " : ""}
                        {MADE[channel.made]}
                      </span>
                    </th>
                    {ROWS.map(({ label, value, note }) => (
                      <td key={label} className="py-1 pr-4">
                        <span className="figure whitespace-nowrap">{value(channel)}</span>
                        <span className="block text-sm whitespace-nowrap text-quiet">{note?.(channel)}</span>
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
            {facts && facts.levels.length > 0 && (
              <p className="border-t border-rule pt-1 text-sm">
                <span className="text-quiet">Below LOD0: </span>
                {levelsInWords(facts.levels)}
              </p>
            )}
            {light && (
              <p className="border-t border-rule pt-1 text-sm">
                <span className="text-quiet">Light map of each level: </span>
                {lightMapsInWords(light.levels)}
              </p>
            )}
          </>
        ) : (
          <p className="text-quiet">This prop has no UVs.</p>
        )}
      </div>
    </div>
  );
}

function levelsInWords(levels: Facts["levels"]): string {
  const several = levels.some(({ channel }) => channel > 0);
  return levels
    .map(({ level, channel, islands, flipped_triangles: flipped, zero_area_triangles: flat, overlap }) =>
      [
        `LOD${level}${several ? ` channel ${channel}` : ""} ${plural(islands, "island")}`,
        overlap ? `${percent(overlap)} overlapping` : "",
        flipped ? `${plural(flipped, "triangle")} flipped` : "",
        flat ? `${plural(flat, "triangle")} without area` : "",
      ]
        .filter(Boolean)
        .join(", "),
    )
    .join(" · ");
}

const HOW = { first: "laid", carried: "carried over", anew: "laid anew", none: "none that fits" };

function lightMapsInWords(levels: LightMap["levels"]): string {
  return levels.map(({ level, made, islands }) => `LOD${level} ${HOW[made]}, ${plural(islands, "island")}`).join(" · ");
}
