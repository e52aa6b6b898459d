import { useState } from "react";

import type { Level, PropDetail } from "../../api/client";
import { Figure } from "../../parts/Figure";
import { count, length, metres } from "../../parts/format";
import { LevelSwatch } from "../../parts/LevelSwatch";
import type { LevelName } from "./levelName";
import { LevelMore } from "./LevelMore";
import { hasOwn, inWords, type Limit, limitsOf, reducible, settingValue, shownValue, type Target } from "./targets";

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

/** A level in figures, with its first limit in a field, and all that is asked of it where it is open. */
export function LevelRow({
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
  const isSkipped = !built && prop.levels.length > 0 && prop.readiness !== "working";
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
          {built && count(built.triangles)}
          {isSkipped && <span className="font-sans text-sm text-quiet">skipped</span>}
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
