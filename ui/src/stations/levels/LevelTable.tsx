import type { PropDetail } from "../../api/client";
import { Button } from "../../parts/Button";
import { CheckRow } from "../../parts/CheckRow";
import type { Decide } from "../bench";
import { settingFields } from "../settingFields";
import { levelName } from "./levelName";
import { LevelRow } from "./LevelRow";
import { between, fallen, further, type Limit, type Target, target } from "./targets";

const MOST = 7;

interface LevelTableProps {
  prop: PropDetail;
  left: number;
  onLevel: (index: number) => void;
  decide: Decide;
  onPreview: (limit: Exclude<Limit, "pixels">, value: number) => void;
}

/** One row a level: its name, its target, and what was built of it. */
export function LevelTable({ prop, left, onLevel, decide, onPreview }: LevelTableProps) {
  const { levels: settings } = prop.settings;
  const targets = settings.levels;
  const change = (levels: Target[]) => decide("levels", { levels: fallen(levels) });
  const set = (i: number, next: Target) => change(targets.map((old, k) => (k === i ? next : old)));
  const insert = (i: number) => {
    const [one, two] = [targets[i], targets[i + 1]];
    if (one) change([...targets.slice(0, i + 1), two ? between(one, two) : further(one), ...targets.slice(i + 1)]);
  };
  const last = targets.at(-1);
  const first = prop.levels[0];
  const shared = { prop, left, onLevel, onPreview };
  return (
    <div className="space-y-2">
      <table className="w-full">
        <thead className="text-right text-sm text-quiet">
          <tr>
            <th className="text-left font-normal">level</th>
            <th className="pr-1 text-left font-normal">target</th>
            <th className="font-normal">tris</th>
            <th className="font-normal" title="maximum deviation from LOD0">
              deviation
            </th>
            <th className="font-normal" title="distance from which it is drawn">
              switch
            </th>
            <th aria-label="more" />
          </tr>
        </thead>
        <tbody className="figure text-right">
          <LevelRow
            {...shared}
            place={0}
            name={levelName(0, prop.levels)}
            built={first}
            one={settings.lod0 ?? null}
            onChange={settings.has_levels ? (next) => decide("levels", { lod0: next }) : null}
            onRemove={settings.lod0 ? () => decide("levels", { lod0: null }) : null}
            onInsert={null}
          />
          {settings.has_levels &&
            targets.map((one, i) => (
              <LevelRow
                key={i}
                {...shared}
                place={i + 1}
                name={levelName(i + 1, prop.levels)}
                built={prop.levels.find((level) => level.target === i)}
                one={one}
                onChange={(next) => set(i, next)}
                onRemove={() => change(targets.filter((_, k) => k !== i))}
                onInsert={targets.length < MOST ? () => insert(i) : null}
              />
            ))}
          {prop.levels
            .filter((level) => level.index > 0 && level.target < 0)
            .map((level) => (
              <LevelRow
                key={`base ${level.index}`}
                {...shared}
                place={null}
                name={{ index: level.index, words: `LOD${level.index}` }}
                built={level}
                one={null}
                onChange={null}
                onRemove={null}
                onInsert={null}
              />
            ))}
        </tbody>
      </table>
      <CheckRow
        label="Has levels"
        checked={settings.has_levels}
        onChange={(has_levels) => decide("levels", { has_levels })}
        hint="off: the prop must not have levels, as things held up to the camera"
      />
      {settings.has_levels && (
        <div className="flex flex-wrap items-center gap-x-3">
          {targets.length < MOST && (
            <Button
              kind="quiet"
              className="!px-0"
              onClick={() => change([...targets, last ? further(last) : target({ ratio: 0.5 })])}
            >
              + Add a level
            </Button>
          )}
          {!settings.lod0 && (
            <Button
              kind="quiet"
              className="!px-0"
              onClick={() => decide("levels", { lod0: target({ ratio: 0.5 }) })}
              title="for dense sources: LOD0 itself is reduced, and the levels follow it"
            >
              + Reduce LOD0
            </Button>
          )}
          <span className="ml-auto">
            {settingFields("levels", settings, decide).number("min_triangles", "Minimum", { unit: "tris" })}
          </span>
        </div>
      )}
    </div>
  );
}
