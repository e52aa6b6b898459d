import { useMemo } from "react";

import type { PropDetail } from "../../api/client";
import { Button } from "../../parts/Button";
import { count, length } from "../../parts/format";
import { HEAT } from "../../viewport/descentLevel";
import { type DescentState, shareOf, stepAt } from "./useDescent";
import type { Preview } from "./usePreview";
import { splitsOf, verticesNear } from "./vertices";

const STEPS = 1000;

interface DescentBarProps {
  descent: DescentState;
  /** The level where the slider rests, as it would ship. */
  preview: Preview;
  prop: PropDetail;
  /** Triangles of the level in sight, where the slider stands while no one has moved it. */
  triangles: number;
  onUse: (triangles: number) => void;
}

/** The slider over the whole way down: triangles, engine vertices and deviation follow it at once, and are exact where it rests. */
export function DescentBar({ descent, preview, prop, triangles, onUse }: DescentBarProps) {
  const { level, isOn, step } = descent;
  const splits = useMemo(() => (level ? splitsOf(level.replay.descent, prop.levels) : []), [level, prop.levels]);
  const whole = level?.replay.descent.trianglesAt[0] ?? prop.levels[0]?.triangles ?? triangles;
  const way = level?.replay.descent;
  const share = way ? shareOf(way, isOn ? way.trianglesAt[step]! : triangles) : 0;
  const at = way ? (isOn ? step : stepAt(way, share)) : 0;
  // A level that was built has figures of its own: its shading and the destination's tangents split vertices.
  const inSight = prop.levels.find((level) => level.triangles === triangles);
  const exact = !isOn ? inSight : at > 0 ? preview.facts : prop.levels[0];
  const left = exact?.triangles ?? way?.trianglesAt[at] ?? triangles;
  const vertices = exact?.vertices ?? (way ? verticesNear(way, at, splits) : 0);
  const deviation = exact?.deviation ?? way?.largestAt[at] ?? 0;
  const about = exact ? "" : "≈ ";
  const built = prop.levels.filter(({ index }) => index > 0);
  return (
    <div className="flex items-center gap-3 border-b border-rule-strong bg-sheet px-3 py-1.5">
      <span className="text-sm whitespace-nowrap text-quiet">Reduce to</span>
      <div className="relative min-w-24 grow">
        <input
          type="range"
          aria-label="Triangles left"
          aria-valuetext={`${left} triangles, ${about}${vertices} engine vertices, ${about}${length(deviation)} deviation`}
          aria-busy={preview.isMaking}
          min={0}
          max={STEPS}
          step={1}
          disabled={!way}
          title={descent.isOffered ? undefined : "only the base is slid down; choose it below"}
          value={Math.round(share * STEPS)}
          onChange={(event) => way && descent.setStep(stepAt(way, Number(event.target.value) / STEPS))}
          className="block w-full accent-(--mark)"
        />
        {way &&
          built.map(({ index, triangles: there }) => (
            <span
              key={index}
              aria-hidden
              className="pointer-events-none absolute top-4 h-1.5 w-px bg-ink/60"
              style={{ left: `calc(8px + ${shareOf(way, there)} * (100% - 16px))` }}
              title={`LOD${index}`}
            />
          ))}
      </div>
      {descent.isFailed && (
        <span role="alert" className="flex items-center gap-2 text-sm whitespace-nowrap text-stop">
          It could not be loaded.
          <Button onClick={descent.retry}>Load again</Button>
        </span>
      )}
      <output className="figure w-48 text-sm leading-4 whitespace-nowrap">
        <div>
          {count(left)} tris · {about}
          {count(vertices)} verts
        </div>
        <div className="text-quiet">
          {((100 * left) / whole).toFixed(left * 10 < whole ? 1 : 0)}% · dev. {about}
          {length(deviation)}
        </div>
      </output>
      <Button
        pressed={descent.isHot}
        disabled={!way}
        onClick={() => descent.setHot(!descent.isHot)}
        title="deviation from LOD0 in colour (D)"
      >
        Deviation
      </Button>
      <Button disabled={!isOn} onClick={() => onUse(left)} title="make this the next level">
        Make it a level
      </Button>
      <Button kind="quiet" disabled={!isOn} onClick={descent.stop} title="back to the levels that were built (Esc)">
        Done
      </Button>
    </div>
  );
}

/** What the colours of the deviation mean, for the level where the slider stands. */
export function DeviationScale({ descent, preview }: { descent: DescentState; preview: Preview }) {
  if (!descent.level || !descent.isHot || !descent.isOn) return null;
  const most = preview.facts?.deviation ?? descent.level.replay.descent.largestAt[descent.step]!;
  return (
    <div className="absolute top-34 right-3 rounded border border-rule-strong bg-sheet/95 px-2 py-1.5 text-sm">
      <div>deviation, estimated</div>
      <div className="h-2 w-40" style={{ background: `linear-gradient(90deg, ${HEAT.join(", ")})` }} />
      <div className="figure flex justify-between">
        <span>0</span>
        <span>{length(most / 4)}</span>
        <span>{length(most)}</span>
      </div>
    </div>
  );
}
