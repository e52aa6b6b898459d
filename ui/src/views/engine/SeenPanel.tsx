import type { ReactNode } from "react";

import type { Finding, SeenProp } from "../../api/client";
import { sorted } from "../../api/findings";
import { count, dimensions, length } from "../../parts/format";
import { SeverityShape } from "../../parts/Severity";

const FIGURE = 1.8;
const WIDE = 65_535;
const LIGHT = {
  absent: "not there",
  holds: "holds: inside the square, no texel twice",
  overlaps: "overlaps",
  outside: "leaves the square",
} as const;

interface SeenPanelProps {
  seen: SeenProp;
  findings: Finding[];
  limit: number;
  wantsLightMap: boolean;
}

/** A prop as a strict engine takes it together: its chain, materials, size, light map, tangents and proxies. */
export function SeenPanel({ seen, findings, limit, wantsLightMap }: SeenPanelProps) {
  return (
    <div className="grid gap-x-10 gap-y-5 xl:grid-cols-2">
      <Section title="Chain">
        <table>
          <Heads names={["level", "by its name", "triangles", "vertices", "draws", `meshes at ${bits(limit)}`]} />
          <tbody>
            {seen.levels.map((level, index) => (
              <tr key={level.name + String(index)} className="border-b border-rule">
                <td className="figure py-1 pr-4">{level.name}</td>
                <td className="py-1 pr-4">
                  {level.number === null ? (
                    <span className="text-stop">no level</span>
                  ) : (
                    <span className="figure">LOD{level.number}</span>
                  )}
                </td>
                <td className="figure py-1 pr-4">{count(level.triangles)}</td>
                <td className="figure py-1 pr-4">{count(level.vertices)}</td>
                <td className="figure py-1 pr-4">{level.draws}</td>
                <td className="figure py-1 pr-4">
                  {level.pieces}
                  {level.pieces_16 !== level.pieces && (
                    <span className="text-quiet"> ({level.pieces_16} at 16 bits)</span>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {seen.levels.some(({ parts }) => parts.length > 0) && (
          <p className="mt-1 text-sm text-quiet">
            Parts of LOD0: <span className="figure">{seen.levels[0]?.parts.join(", ")}</span>
          </p>
        )}
      </Section>
      <Section title="Findings">
        {findings.length === 0 && (
          <p className="flex items-center gap-2 text-quiet">
            <SeverityShape severity="fine" /> nothing that an engine would stumble over
          </p>
        )}
        <ul>
          {sorted(findings).map((finding) => (
            <li key={finding.code + finding.message} className="flex items-baseline gap-2 py-0.5">
              <SeverityShape severity={finding.severity} />
              <span>
                <span className="text-sm text-quiet">{finding.severity}</span> {finding.message}
              </span>
            </li>
          ))}
        </ul>
      </Section>
      <Section title="Size, axes, pivot">
        <div className="flex items-end gap-6">
          <SizeBeside size={seen.size} lowest={seen.lowest} />
          <Facts
            rows={[
              ["size", dimensions(seen.size)],
              ["up", `${seen.up.toUpperCase()}, ${seen.metres === 1 ? "metres" : `${length(seen.metres)} a unit`}`],
              ["pivot", pivotOf(seen)],
              ["place in its scene", seen.place.some((v) => v) ? dimensions(seen.place) : "the origin"],
              ["seen from behind", `${(100 * seen.drawn_from_behind).toFixed(1)} % of LOD0's triangles`],
            ]}
          />
        </div>
      </Section>
      <Section title="Channels">
        <Facts
          rows={[
            ["UV channels", seen.uv_channels.length ? seen.uv_channels.join(", ") : "none"],
            [
              `light map on ${seen.light_map.channel}`,
              LIGHT[seen.light_map.state] +
                (seen.light_map.state === "overlaps"
                  ? ` on ${(100 * seen.light_map.covered_twice).toFixed(1)} % of its texels`
                  : "") +
                (wantsLightMap ? "" : "; the destination asks for none"),
            ],
            ["tangents", seen.tangents],
          ]}
        />
      </Section>
      <Section title="Materials, in the file's order">
        {seen.materials.length === 0 && <p className="text-quiet">the format has none</p>}
        <table className="w-full">
          <tbody>
            {seen.materials.map((material, index) => (
              <tr key={material.name + String(index)} className="border-b border-rule align-top">
                <td className="figure py-1 pr-3 text-quiet">{index}</td>
                <td className="py-1 pr-4 font-medium">{material.name}</td>
                <td className="w-full max-w-0 py-1">
                  {material.maps.length === 0 && <span className="text-quiet">no maps</span>}
                  {material.maps.map((map) => (
                    <div key={map.slot} className="flex items-baseline gap-2">
                      <SeverityShape severity={map.state === "found" ? "fine" : "stop"} />
                      <span className="w-34 shrink-0">{map.slot.replaceAll("_", " ")}</span>
                      <span className="figure text-sm whitespace-nowrap">
                        {map.state === "found"
                          ? `${map.width} × ${map.height} ${map.format}${map.levels > 1 ? `, ${map.levels} mips` : ""}`
                          : map.state}
                      </span>
                      <span className="figure min-w-0 truncate text-sm text-quiet" title={map.path}>
                        {map.path}
                      </span>
                    </div>
                  ))}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Section>
      <Section title="Collision proxies">
        {seen.proxies.length === 0 && <p className="text-quiet">none</p>}
        <table>
          <tbody>
            {seen.proxies.map((proxy) => (
              <tr key={proxy.name} className="border-b border-rule">
                <td className="figure py-1 pr-4">{proxy.name}</td>
                <td className="figure py-1 pr-4">{count(proxy.triangles)} tris</td>
                <td className={`py-1 ${proxy.fault ? "text-stop" : "text-quiet"}`}>
                  {proxy.fault || "closed, convex, outside out"}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Section>
    </div>
  );
}

function bits(limit: number): string {
  return limit > WIDE ? "32 bits" : limit === WIDE ? "16 bits" : `${count(limit)} vertices`;
}

function pivotOf({ lowest, size }: SeenProp): string {
  const height = -(lowest[1] ?? 0);
  if (Math.abs(height) < 0.005 * Math.max(...size)) return "at the foot";
  return height < 0 ? `${length(-height)} below it` : `${length(height)} above the foot`;
}

function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section aria-label={title}>
      <h2 className="mb-1 font-semibold">{title}</h2>
      {children}
    </section>
  );
}

function Heads({ names }: { names: string[] }) {
  return (
    <thead className="text-left text-sm text-quiet">
      <tr className="border-b border-rule-strong">
        {names.map((name) => (
          <th key={name} className="py-1 pr-4 font-normal">
            {name}
          </th>
        ))}
      </tr>
    </thead>
  );
}

function Facts({ rows }: { rows: [string, string][] }) {
  return (
    <dl className="grid grid-cols-[auto_1fr] gap-x-4 gap-y-0.5">
      {rows.map(([label, value]) => (
        <div key={label} className="contents">
          <dt className="text-quiet">{label}</dt>
          <dd className="figure">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

/** The prop's box beside a standing figure, both to scale, with the pivot as a cross. */
function SizeBeside({ size, lowest }: { size: readonly number[]; lowest: readonly number[] }) {
  const [width = 0, height = 0] = size;
  const most = Math.max(FIGURE, height, 1e-6);
  const scale = 110 / most;
  const wide = Math.min(Math.max(width * scale, 2), 200);
  const figure = FIGURE * scale;
  const foot = 116;
  const pivotX = 46 + wide * Math.min(Math.max(-(lowest[0] ?? 0) / Math.max(width, 1e-9), 0), 1);
  const pivotY = foot - Math.min(Math.max(-(lowest[1] ?? 0), 0), height) * scale;
  return (
    <svg
      viewBox={`0 0 ${60 + wide} 122`}
      className="h-32 shrink-0"
      role="img"
      aria-label={`${dimensions([...size])} beside a figure of 1.8 m`}
    >
      <path d={`M0 ${foot}H${60 + wide}`} stroke="var(--rule-strong)" />
      <rect
        x="8"
        y={foot - figure}
        width={Math.max(figure * 0.26, 3)}
        height={figure}
        rx="4"
        fill="var(--quiet)"
        opacity=".5"
      />
      <rect
        x="46"
        y={foot - height * scale}
        width={wide}
        height={Math.max(height * scale, 1)}
        fill="var(--mark-tint)"
        stroke="var(--mark)"
      />
      <path d={`M${pivotX - 4} ${pivotY}h8M${pivotX} ${pivotY - 4}v8`} stroke="var(--ink)" strokeWidth="1.5" />
    </svg>
  );
}
