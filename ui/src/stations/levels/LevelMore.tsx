import type { Level, PropDetail } from "../../api/client";
import { Button } from "../../parts/Button";
import { CheckRow } from "../../parts/CheckRow";
import { Figure } from "../../parts/Figure";
import { SelectBox } from "../../parts/SelectBox";
import { NumberField, type NumberLimits, OptionalNumberField, TextField } from "../../parts/TextField";
import { HandMade } from "./HandMade";
import {
  LIMITS,
  type Limit,
  limitsOf,
  settingValue,
  shownValue,
  type Target,
  withLimit,
  withoutLimit,
} from "./targets";

const NORMALS = [
  { value: "chain", label: "as the chain's" },
  { value: "closest", label: "closest" },
  { value: "keep", label: "keep" },
  { value: "recompute", label: "recompute" },
  { value: "transfer", label: "transfer" },
] as const;

/** What the server takes of a weight, and of metres, millimetres and pixels. */
const [WEIGHT, LENGTH] = [{ low: 0, high: 10 }, { above: 0 }];

interface LevelMoreProps {
  /** Which of the line's levels it is, from 1; 0 for LOD0. */
  place: number;
  name: string;
  one: Target;
  built: Level | undefined;
  prop: PropDetail;
  onChange: (next: Target) => void;
  onRemove: (() => void) | null;
  onInsert: (() => void) | null;
}

/** Everything of one level: its limits, excluded parts, normals, weights and switch. Empty fields are as the chain has it. */
export function LevelMore({ place, name, one, built, prop, onChange, onRemove, onInsert }: LevelMoreProps) {
  const set = (own: Partial<Target>) => onChange({ ...one, ...own });
  const number = (
    key: "silhouette_weight" | "curvature_weight" | "exclude_below_px" | "switch_distance" | "edge_length_mm",
    label: string,
    unit: string,
    placeholder: string,
    limits: NumberLimits = LENGTH,
  ) => (
    <OptionalNumberField
      inline
      label={label}
      unit={unit}
      placeholder={placeholder}
      limits={limits}
      value={one[key] ?? null}
      onCommit={(value) => set({ [key]: value })}
    />
  );
  return (
    <div className="ml-1 space-y-1 border-l-2 border-rule pl-2">
      {one.hand_made == null && <Limits name={name} one={one} prop={prop} onChange={onChange} />}
      {place > 0 && (
        <HandMade
          prop={prop}
          place={place}
          level={name}
          name={one.hand_made ?? null}
          onRemove={() => set({ hand_made: null })}
        />
      )}
      <CheckRow
        label="Isotropic remesh"
        hint="for soft and dense sources: even triangles instead of edge collapse; features stay"
        checked={one.remesh}
        onChange={(remesh) => set(remesh ? { remesh } : { remesh: false, edge_length_mm: null })}
      />
      {one.remesh && number("edge_length_mm", "Edge length", "mm", "by count")}
      <div className="flex items-center justify-between gap-2">
        <span className="text-sm text-quiet">Normals</span>
        <SelectBox
          label={`Normals of ${name}`}
          className="w-36"
          value={one.normals ?? "chain"}
          options={[...NORMALS]}
          onChange={(normals) => set({ normals: normals === "chain" ? null : normals })}
        />
      </div>
      {!one.remesh && number("silhouette_weight", "Silhouette weight", "", "chain", WEIGHT)}
      {!one.remesh && number("curvature_weight", "Curvature weight", "", "chain", WEIGHT)}
      {place > 0 &&
        number(
          "switch_distance",
          "Switch distance",
          "m",
          // What is decided is multiplied by the bias, as what is proposed has been.
          built ? String(Number((built.proposed / prop.settings.levels.switch_bias).toPrecision(3))) : "as proposed",
        )}
      {place > 0 && (
        <NumberField
          inline
          label="Textures halved"
          unit="times"
          value={one.texture_step}
          limits={{ low: 0, high: 8, whole: true }}
          onCommit={(texture_step) => set({ texture_step })}
        />
      )}
      {place > 0 && !one.remesh && number("exclude_below_px", "Exclude parts under", "px", "keep")}
      <Parts one={one} built={built} prop={prop} onChange={(excluded_parts) => set({ excluded_parts })} />
      <div className="flex gap-3">
        {onInsert && (
          <Button
            kind="quiet"
            className="!h-6 !px-0 text-sm"
            aria-label={`Insert a level below ${name}`}
            onClick={onInsert}
          >
            + Insert below
          </Button>
        )}
        {onRemove && (
          <Button
            kind="quiet"
            className="!h-6 !px-0 text-sm"
            aria-label={place === 0 ? "Do not reduce LOD0" : `Remove ${name}`}
            onClick={onRemove}
          >
            Remove
          </Button>
        )}
      </div>
    </div>
  );
}

/** What stops the level; the first of several that is met. */
function Limits({
  name,
  one,
  prop,
  onChange,
}: {
  name: string;
  one: Target;
  prop: PropDetail;
  onChange: (next: Target) => void;
}) {
  const limits = limitsOf(one);
  const free = LIMITS.filter(({ value }) => one[value] == null);
  return (
    <div className="space-y-0.5">
      {limits.map((limit, k) => (
        <div key={limit.value} className="flex items-center gap-1">
          <span className="w-14 text-sm text-quiet">{k === 0 ? "at most" : "and at most"}</span>
          <Figure
            label={`${name}, ${limit.words}`}
            value={shownValue(limit.value, one[limit.value] ?? 0)}
            onCommit={(value) => onChange({ ...one, [limit.value]: settingValue(limit.value, value) })}
          />
          <SelectBox
            label={`Limit of ${name}`}
            className="min-w-0 grow"
            value={limit.value}
            options={[limit, ...free].map(({ value, words }) => ({ value, label: words }))}
            onChange={(next) => onChange(withLimit(withoutLimit(one, limit.value), next as Limit, prop))}
          />
          {limit.value === "pixels" && (
            <Figure
              label={`${name}: metres from the viewer`}
              value={one.distance ?? 10}
              onCommit={(distance) => onChange({ ...one, distance })}
            />
          )}
          {limits.length > 1 && (
            <button
              type="button"
              aria-label={`Remove this limit of ${name}`}
              className="size-6 shrink-0 text-quiet hover:text-ink"
              onClick={() => onChange(withoutLimit(one, limit.value))}
            >
              ✕
            </button>
          )}
        </div>
      ))}
      {limits.length < 3 && (
        <Button
          kind="quiet"
          className="!h-6 !px-0 text-sm"
          aria-label={`Another limit for ${name}`}
          onClick={() =>
            onChange(withLimit(one, free.find(({ value }) => value === "tolerance")?.value ?? "triangles", prop))
          }
        >
          + Another limit
        </Button>
      )}
    </div>
  );
}

/** Parts that the level goes without: by pattern, or by a tick. */
function Parts({
  one,
  built,
  prop,
  onChange,
}: {
  one: Target;
  built: Level | undefined;
  prop: PropDetail;
  onChange: (excluded: string[]) => void;
}) {
  const excluded = one.excluded_parts;
  // What a pattern or the size excludes is brought back there, not here.
  const parts = prop.parts.filter(
    ({ path, ships }) => ships && (excluded.includes(path) || !built?.dropped.includes(path)),
  );
  return (
    <>
      <TextField
        label={`Excluded parts${built?.dropped.length ? ` (${built.dropped.length} excluded)` : ""}`}
        placeholder="*bolt*, strap_02"
        value={excluded.join(", ")}
        onCommit={(text) =>
          onChange(
            text
              .split(",")
              .map((word) => word.trim())
              .filter(Boolean),
          )
        }
      />
      {parts.length > 1 && (
        <div className="max-h-32 overflow-y-auto">
          {parts.map(({ path, name }) => (
            <CheckRow
              key={path}
              label={name}
              hint={path}
              checked={!excluded.includes(path)}
              onChange={(stays) => onChange(stays ? excluded.filter((word) => word !== path) : [...excluded, path])}
            />
          ))}
        </div>
      )}
    </>
  );
}
