import type { Level, PropDetail } from "../../api/client";
import { bytes, count, length, metres } from "../../parts/format";
import { LevelSwatch } from "../../parts/LevelSwatch";

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
            <th colSpan={8} />
            <th className="border-l border-rule px-2 text-left font-normal" colSpan={4}>
              against LOD0
            </th>
            <th className="border-l border-rule px-2 text-left font-normal" colSpan={4}>
              against the level above
            </th>
          </tr>
          <tr>
            <th className="!pl-0 text-left font-normal">level</th>
            {["tris", "verts", "materials", "geometry", "textures", "switch", "screen size"].map((name) => (
              <th key={name} className="font-normal">
                {name}
              </th>
            ))}
            {[0, 1].map((block) =>
              ["deviation", "silhouette", "shading", "normals"].map((name) => (
                <th
                  key={`${block} ${name}`}
                  className={`font-normal ${name === "deviation" ? "border-l border-rule" : ""}`}
                >
                  {name}
                </th>
              )),
            )}
          </tr>
        </thead>
        <tbody className="figure !text-[12px]">
          {prop.levels.map((level) => (
            <tr key={level.index} className="border-t border-rule">
              <th scope="row" className="!pl-0 text-left font-sans font-medium">
                <span
                  className="flex items-center gap-1.5"
                  title={level.dropped.length ? `without ${level.dropped.join(", ")}` : undefined}
                >
                  <LevelSwatch index={level.index} />
                  LOD{level.index}
                  {level.dropped.length > 0 && (
                    <span className="text-sm text-quiet">−{level.dropped.length} parts</span>
                  )}
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
                <td colSpan={8} className="border-l border-rule text-quiet">
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

function Changes({ level, size }: { level: Level; size: number }) {
  const { change, step } = level;
  return (
    <>
      <td className="border-l border-rule">
        {length(change.surface)} <span className="text-quiet">{((100 * change.surface) / size).toFixed(2)} %</span>
      </td>
      <td>
        {length(change.outline)} <span className="text-quiet">{(100 * change.outline_share).toFixed(1)} %</span>
      </td>
      <td>{length(change.shading)}</td>
      <td>{change.normal_angle.toFixed(1)}°</td>
      <td className="border-l border-rule">{length(step.surface)}</td>
      <td>{length(step.outline)}</td>
      <td>{length(step.shading)}</td>
      <td>{step.normal_angle.toFixed(1)}°</td>
    </>
  );
}

function Share({ of, value }: { of: number; value: number }) {
  return <span className="text-quiet">{((100 * value) / Math.max(of, 1)).toFixed(value * 10 < of ? 1 : 0)} %</span>;
}
