import type { Level, PropDetail } from "../../../api/client";
import { bytes, count, length, metres } from "../../../parts/format";
import { LevelSwatch } from "../../../parts/LevelSwatch";

const HEADS = [
  ...["tris", "verts", "materials", "geometry", "textures", "switch", "screen size"],
  ...["against", "deviation", "silhouette", "shading", "normals"],
];

/** The parts that a level goes without, excluded or with all their shells dropped. */
const without = ({ dropped, vanished }: Level): string[] => [...dropped, ...(vanished ?? [])];

/** What each level costs, and what it changes against LOD0 and against the level above it. */
export function LevelFigures({ prop }: { prop: PropDetail }) {
  const first = prop.levels[0];
  const size = 2 * (prop.facts.levels?.radius ?? 0.5);
  if (!first) return null;
  return (
    <div className="min-h-0 grow overflow-auto px-4 pb-2">
      <table className="w-full text-right text-[12px] whitespace-nowrap [&_td]:pl-1.5 [&_th]:pl-1.5">
        <thead className="sticky top-0 bg-sheet text-sm text-quiet">
          <tr>
            <th className="!pl-0 text-left font-normal">level</th>
            {HEADS.map((name) => (
              <th key={name} className="font-normal">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody className="figure !text-[12px]">
          {prop.levels.map((level) => (
            <tr key={level.index} className="border-t border-rule align-top">
              <th scope="row" className="!pl-0 text-left font-sans font-medium">
                <span
                  className="flex items-center gap-1.5"
                  title={without(level).length ? `goes without ${without(level).join(", ")}` : undefined}
                >
                  <LevelSwatch index={level.index} />
                  LOD{level.index}
                  {without(level).length > 0 && <span className="text-sm text-quiet">−{without(level).length}</span>}
                </span>
              </th>
              <td>
                {count(level.triangles)} <Share of={first.triangles} value={level.triangles} />
              </td>
              <td>{count(level.vertices)}</td>
              <td>{level.materials}</td>
              <td>{bytes(level.bytes)}</td>
              <td>{bytes(level.texture_bytes)}</td>
              <td>{level.index === 0 ? "0 m" : metres(level.distance)}</td>
              <td>{(100 * level.screen_size).toFixed(level.screen_size < 0.1 ? 1 : 0)} %</td>
              {level.index === 0 ? (
                <td colSpan={5} className="text-quiet">
                  –
                </td>
              ) : (
                <Changes level={level} size={size} />
              )}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** Two lines: against LOD0, and against the level above where that is another. */
function Changes({ level, size }: { level: Level; size: number }) {
  const lines = [
    { against: 0, ...level.change },
    ...(level.index > 1 ? [{ against: level.index - 1, ...level.step }] : []),
  ];
  const cells: ((line: (typeof lines)[number]) => string)[] = [
    ({ against }) => `LOD${against}`,
    ({ surface }) => `${length(surface)} · ${((100 * surface) / size).toFixed(2)} %`,
    ({ outline, outline_share }) => `${length(outline)} · ${(100 * outline_share).toFixed(1)} %`,
    ({ shading }) => length(shading),
    ({ normal_angle }) => `${normal_angle.toFixed(1)}°`,
  ];
  return cells.map((cell, i) => (
    <td key={i}>
      {lines.map((line) => (
        <div key={line.against} className={line.against > 0 ? "text-quiet" : ""}>
          {cell(line)}
        </div>
      ))}
    </td>
  ));
}

function Share({ of, value }: { of: number; value: number }) {
  return <span className="text-quiet">{((100 * value) / Math.max(of, 1)).toFixed(value * 10 < of ? 1 : 0)} %</span>;
}
