import { useState } from "react";

import type { Level, PropDetail } from "../../api/client";
import { Button } from "../../parts/Button";
import { CheckRow } from "../../parts/CheckRow";
import { Figure } from "../../parts/Figure";
import { count, length, metres } from "../../parts/format";
import { LevelSwatch } from "../../parts/LevelSwatch";
import type { Decide } from "../bench";
import { settingFields } from "../settingFields";
import { LevelMore } from "./LevelMore";
import { type LevelName, levelName } from "./levelName";
import {
  between,
  fallen,
  further,
  hasOwn,
  inWords,
  type Limit,
  limitsOf,
  reducible,
  settingValue,
  shownValue,
  type Target,
  target,
} from "./targets";

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

interface LevelRowProps {
  /** Which of the line's levels it is, from 1; 0 for LOD0, null for a level of the base. */
  place: number | null;
  name: LevelName;
  built: Level | undefined;
  /** What is asked of it; null where nothing is: LOD0 as it comes, a level of the base. */
  one: Target | null;
  prop: PropDetail;
  left: number;
  onLevel: (index: number) => void;
  onChange: ((next: Target) => void) | null;
  onRemove: (() => void) | null;
  onInsert: (() => void) | null;
  onPreview: (limit: Exclude<Limit, "pixels">, value: number) => void;
}

function LevelRow({
  place,
  name,
  built,
  one,
  prop,
  left,
  onLevel,
  onChange,
  onRemove,
  onInsert,
  onPreview,
}: LevelRowProps) {
  const { index, words } = name;
  const [isOpen, setOpen] = useState(false);
  const limits = one ? limitsOf(one) : [];
  const first = limits[0];
  const isShown = built !== undefined && built.index === left;
  return (
    <>
      <tr className={isShown ? "bg-mark-tint" : ""}>
        <td className="text-left">
          <button
            type="button"
            disabled={!built}
            className="flex items-center gap-1.5 font-sans font-medium disabled:text-quiet"
            aria-label={words}
            onClick={() => built && onLevel(built.index)}
          >
            {index === null ? (
              <span title="it was skipped">–</span>
            ) : (
              <>
                <LevelSwatch index={index} />
                {words}
              </>
            )}
          </button>
        </td>
        <td className="py-0.5 text-left">
          {one && first && onChange && one.hand_made == null ? (
            <span className="flex items-center gap-1">
              <Figure
                label={`${words}: ${first.words}`}
                value={shownValue(first.value, one[first.value] ?? 0)}
                onDraft={(value) =>
                  first.value !== "pixels" && onPreview(first.value, settingValue(first.value, value))
                }
                onCommit={(value) => onChange({ ...one, [first.value]: settingValue(first.value, value) })}
              />
              <span className="font-sans text-sm whitespace-nowrap text-quiet">{first.unit}</span>
            </span>
          ) : (
            <span className="font-sans text-sm text-quiet">{one ? inWords(one) : place === 0 ? "source" : "base"}</span>
          )}
        </td>
        <td className="pl-1 whitespace-nowrap">
          {built
            ? count(built.triangles)
            : prop.levels.length > 0 && <span className="font-sans text-sm text-quiet">skipped</span>}
        </td>
        <td className="pl-1 whitespace-nowrap">{built && (index === 0 ? "0" : length(built.deviation))}</td>
        <td className="pl-1 whitespace-nowrap">{built && (index === 0 ? "0 m" : metres(built.distance))}</td>
        <td className="w-6 text-right">
          {one && onChange && (
            <button
              type="button"
              aria-expanded={isOpen}
              aria-label={`More of ${words}`}
              title="limits, parts, normals, switch"
              className={`size-6 rounded hover:bg-paper ${hasOwn(one) ? "text-mark" : "text-quiet"}`}
              onClick={() => setOpen(!isOpen)}
            >
              {isOpen ? "▴" : "⋯"}
            </button>
          )}
        </td>
      </tr>
      {one && !isOpen && (limits.length > 1 || (one.remesh && one.hand_made == null)) && (
        <tr>
          <td />
          <td colSpan={5} className="pb-1 text-left font-sans text-sm text-quiet">
            {inWords(one)}
          </td>
        </tr>
      )}
      {one && isOpen && onChange && place !== null && (
        <tr>
          <td colSpan={6} className="pb-2 text-left font-sans">
            <LevelMore
              place={place}
              name={words}
              one={one}
              built={built}
              prop={prop}
              onChange={(next) => onChange(reducible(next))}
              onRemove={
                onRemove &&
                (() => {
                  // The next level moves up into this row: it is not to be open, with its own way to remove it here.
                  setOpen(false);
                  onRemove();
                })
              }
              onInsert={onInsert}
            />
          </td>
        </tr>
      )}
    </>
  );
}
