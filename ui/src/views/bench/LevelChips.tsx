import type { Level } from "../../api/client";
import { change, count } from "../../parts/format";
import { LevelSwatch } from "../../parts/LevelSwatch";

interface LevelChipProps {
  levels: Level[];
  index: number;
  label: string;
  onLevel: (index: number) => void;
}

/** Pixels that the choice of so many levels takes at most, with its margin. */
export function chipWidth(levels: number): number {
  return 60 + 37 * levels;
}

/** Which level is drawn, with its counts before → after and in percent; the row of levels is the choice. -1: none. */
export function LevelChip({ levels, index, label, onLevel }: LevelChipProps) {
  const level = levels[index];
  const first = levels[0];
  if (!first) return null;
  return (
    <div className="rounded border border-rule-strong bg-sheet/95 px-2 py-1.5">
      <div role="radiogroup" aria-label={label} className="flex gap-0.5">
        {levels.map((other) => (
          <button
            key={other.index}
            type="button"
            role="radio"
            aria-checked={other.index === index}
            onClick={() => onLevel(other.index)}
            className={`flex h-6 items-center gap-1.5 rounded px-1.5 font-semibold ${other.index === index ? "bg-ink text-sheet" : "text-quiet hover:text-ink"}`}
          >
            <LevelSwatch index={other.index} />
            {other.index === index ? `LOD${other.index}` : other.index}
          </button>
        ))}
      </div>
      {level && (
        <div className="figure mt-1 text-sm leading-4">
          {index === 0 ? (
            <>
              {count(level.triangles)} tris · {count(level.vertices)} verts
            </>
          ) : (
            <>
              <div>
                {count(first.triangles)} → {count(level.triangles)} tris{" "}
                <span className="text-quiet">{change(first.triangles, level.triangles)}</span>
              </div>
              <div>
                {count(first.vertices)} → {count(level.vertices)} verts{" "}
                <span className="text-quiet">{change(first.vertices, level.vertices)}</span>
              </div>
            </>
          )}
        </div>
      )}
    </div>
  );
}
