import { useEffect, useState } from "react";

import type { PropDetail } from "../../../api/client";
import { Button } from "../../../parts/Button";
import { count, millimetres } from "../../../parts/format";
import { SelectBox } from "../../../parts/SelectBox";
import { NumberField } from "../../../parts/TextField";
import { Ticked } from "../../../parts/Ticked";
import type { PreviewLimit } from "../descent/useDescent";
import { LevelSwatch } from "../LevelSwatch";
import type { Decide } from "../useDecisions";
import { type LevelOwn, LevelMore } from "./LevelMore";
import type { PickKind } from "./PlacementSettings";
import { StatesSettings } from "./StatesSettings";
import { SwitchSettings } from "./SwitchSettings";

const NORMALS = [
  { value: "closest", label: "Whichever looks closest" },
  { value: "kept", label: "Those of its vertices" },
  { value: "rule", label: "Made anew by the rule" },
  { value: "carried", label: "Carried over from LOD0" },
];
const PLACEMENTS = [
  { value: "optimal", label: "Where the error is least" },
  { value: "original", label: "LOD0's own, one buffer" },
];
const MIRRORS = [
  { value: "off", label: "none" },
  { value: "found", label: "as found" },
  { value: "x", label: "across X" },
  { value: "y", label: "across Y" },
  { value: "z", label: "across Z" },
];
const SIDES = [
  { value: "positive", label: "from +" },
  { value: "negative", label: "from −" },
];

type Limit = "ratio" | "triangles" | "vertices" | "tolerance" | "tolerance_mm" | "pixels";
type Target = Partial<Record<Limit | "distance", number | null>> & LevelOwn;

const LIMITS: { value: Limit; label: string; unit: string; start: (prop: PropDetail) => number }[] = [
  { value: "ratio", label: "%\u00a0△", unit: "percent of LOD0's triangles", start: () => 0.25 },
  { value: "triangles", label: "△", unit: "triangles", start: (prop) => Math.round((prop.levels[0]?.triangles ?? 1000) / 4) },
  { value: "vertices", label: "v", unit: "engine vertices", start: (prop) => Math.round((prop.levels[0]?.vertices ?? 1000) / 4) },
  { value: "tolerance", label: "%\u00a0off", unit: "percent of the diagonal it may be off", start: () => 0.5 },
  { value: "tolerance_mm", label: "mm\u00a0off", unit: "millimetres it may be off", start: () => 2 },
  { value: "pixels", label: "px\u00a0off", unit: "pixels it may be off", start: () => 1 },
];

interface LevelsSettingsProps {
  prop: PropDetail;
  left: number;
  onLevel: (index: number) => void;
  decide: Decide;
  pick: PickKind | null;
  onPick: (kind: PickKind | null) => void;
  /** Shows at once what a limit that is being typed would leave. */
  onPreview: (limit: PreviewLimit, value: number) => void;
}

/** How far each level goes, and what holds on the way. */
export function LevelsSettings({ prop, left, onLevel, decide, pick, onPick, onPreview }: LevelsSettingsProps) {
  const settings = prop.settings.levels as unknown as {
    levels: Target[];
    first: Target | null;
    has_levels: boolean;
    lowest: number;
    placement: string;
    normals: string;
    mirror: string;
    mirror_from: string;
    silhouette: number;
    curved: number;
    lock_borders: boolean;
    protected: unknown[];
    protected_parts: string[];
  };
  const targets = settings.levels.map(given);
  const change = (levels: Target[]) => JSON.stringify(levels) !== JSON.stringify(targets) && decide("levels", { levels: fallen(levels) });
  const set = (i: number, target: Target) => change(targets.map((old, k) => (k === i ? target : old)));
  const add = () => {
    const last = targets.at(-1);
    change([...targets, last ? further(last) : { ratio: 0.5 }]);
  };
  const insert = (i: number) => {
    const [one, two] = [targets[i], targets[i + 1]];
    if (one) change([...targets.slice(0, i + 1), two ? between(one, two) : further(one), ...targets.slice(i + 1)]);
  };
  const parts = prop.parts.filter((part) => part.ships);
  // One unit a column, and digits that fit.
  const inMetres = prop.levels.some((level) => level.deviation >= 10);
  const inKilometres = prop.levels.some((level) => level.distance >= 1000);
  return (
    <div className="space-y-2">
      <table className="w-full">
        <thead className="text-right text-sm text-quiet">
          <tr>
            <th className="pb-1 text-left font-normal">level</th>
            <th className="font-normal">triangles</th>
            <th className="pl-1 font-normal whitespace-nowrap">off, {inMetres ? "m" : "mm"}</th>
            <th className="pl-1 font-normal whitespace-nowrap" title="from where it is drawn">
              from, {inKilometres ? "km" : "m"}
            </th>
          </tr>
        </thead>
        <tbody className="figure text-right">
          {prop.levels.map((level) => (
            <tr key={level.index} className={level.index === left ? "bg-mark-tint" : ""}>
              <td className="text-left">
                <button type="button" className="flex items-center gap-1.5 font-sans font-medium" onClick={() => onLevel(level.index)}>
                  <LevelSwatch index={level.index} />
                  LOD{level.index}
                </button>
              </td>
              <td className="pl-1">{count(level.triangles)}</td>
              <td className="pl-1 whitespace-nowrap">{inMetres ? Number(level.deviation.toPrecision(3)) : millimetres(level.deviation)}</td>
              <td className="pl-1 whitespace-nowrap">
                {Number((level.distance / (inKilometres ? 1000 : 1)).toPrecision(3))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="border-t border-rule pt-2">
        <Ticked label="May have levels" checked={settings.has_levels} onChange={(has_levels) => decide("levels", { has_levels })} />
        {settings.has_levels && (
          <>
            <div className="mb-1 text-sm text-quiet">Stop at, whichever comes first</div>
            {settings.first && (
              <TargetRow
                index={0}
                target={given(settings.first)}
                prop={prop}
                onChange={(first) => decide("levels", { first })}
                onRemove={() => decide("levels", { first: null })}
                onInsert={null}
                onPreview={onPreview}
              />
            )}
            {targets.map((target, i) => (
              <TargetRow
                key={i}
                index={i + 1}
                target={target}
                prop={prop}
                onChange={(next) => set(i, next)}
                onRemove={() => change(targets.filter((_, k) => k !== i))}
                onInsert={targets.length < 7 ? () => insert(i) : null}
                onPreview={onPreview}
              />
            ))}
            <div className="flex gap-3">
              {targets.length < 7 && (
                <Button kind="quiet" className="!px-0" onClick={add}>
                  + Add a level
                </Button>
              )}
              {!settings.first && (
                <Button kind="quiet" className="!px-0" onClick={() => decide("levels", { first: { ratio: 0.5 } })} title="for dense sources: LOD0 itself is reduced, and the levels follow it">
                  + Reduce LOD0
                </Button>
              )}
            </div>
            <NumberField inline label="No level under" unit="△" value={settings.lowest} onCommit={(lowest) => decide("levels", { lowest: Math.max(Math.round(lowest), 0) })} />
          </>
        )}
      </div>
      {settings.has_levels && <SwitchSettings prop={prop} decide={decide} />}
      <StatesSettings prop={prop} decide={decide} />
      <div className="space-y-1.5 border-t border-rule pt-2">
        <div className="text-sm text-quiet">Vertices of the levels</div>
        <SelectBox label="Vertices of the levels" className="w-full" value={settings.placement} options={PLACEMENTS} onChange={(placement) => decide("levels", { placement })} />
        <div className="text-sm text-quiet">Normals of the levels</div>
        <SelectBox label="Normals of the levels" className="w-full" value={settings.normals} options={NORMALS} onChange={(normals) => decide("levels", { normals })} />
        <Labelled text="Mirror">
          <span className="flex gap-1">
            <SelectBox label="Mirror" className="w-22" value={settings.mirror} options={MIRRORS} onChange={(mirror) => decide("levels", { mirror })} />
            {settings.mirror !== "off" && (
              <SelectBox label="Side that is the model" className="w-18" value={settings.mirror_from} options={SIDES} onChange={(mirror_from) => decide("levels", { mirror_from })} />
            )}
          </span>
        </Labelled>
        <NumberField
          inline
          label="Outline dearer by"
          unit="×"
          value={settings.silhouette} onCommit={(silhouette) => decide("levels", { silhouette: Math.min(Math.max(silhouette, 0), 10) })}
        />
        <NumberField
          inline
          label="Curves dearer by"
          unit="×"
          value={settings.curved} onCommit={(curved) => decide("levels", { curved: Math.min(Math.max(curved, 0), 10) })}
        />
        <Ticked label="Open borders stay" checked={settings.lock_borders} onChange={(lock_borders) => decide("levels", { lock_borders })} />
      </div>
      <div className="border-t border-rule pt-2">
        <div className="mb-1 flex items-center justify-between text-sm text-quiet">
          <span>Not reduced</span>
          {settings.protected.length > 0 && (
            <Button kind="quiet" className="!h-6" onClick={() => decide("levels", { protected: [] })}>
              clear {settings.protected.length} {settings.protected.length === 1 ? "patch" : "patches"}
            </Button>
          )}
        </div>
        <Button pressed={pick === "face"} onClick={() => onPick(pick === "face" ? null : "face")} title="click a patch on LOD0: it grows over folds up to 20°">
          {pick === "face" ? "Click a patch of LOD0…" : "Protect a patch"}
        </Button>
        {parts.length > 1 && (
          <div className="mt-1 max-h-32 overflow-y-auto">
            {parts.map(({ path }) => (
              <Ticked
                key={path}
                label={path}
                checked={settings.protected_parts.includes(path)}
                onChange={(on) => decide("levels", { protected_parts: on ? [...settings.protected_parts, path] : settings.protected_parts.filter((other) => other !== path) })}
              />
            ))}
          </div>
        )}
      </div>
    </div>
  );
}

function Labelled({ text, children }: { text: string; children: React.ReactNode }) {
  return (
    <div className="flex items-center justify-between gap-2">
      <span className="text-quiet">{text}</span>
      {children}
    </div>
  );
}

interface TargetRowProps {
  index: number;
  target: Target;
  prop: PropDetail;
  onChange: (target: Target) => void;
  onRemove: () => void;
  onInsert: (() => void) | null;
  onPreview: (limit: PreviewLimit, value: number) => void;
}

/** The limits of one level, each with its figure and its unit. */
function TargetRow({ index, target, prop, onChange, onRemove, onInsert, onPreview }: TargetRowProps) {
  const [isOpen, setOpen] = useState(false);
  const limits = LIMITS.filter(({ value }) => target[value] != null);
  const free = LIMITS.filter(({ value }) => target[value] == null);
  const without = (limit: Limit): Target => Object.fromEntries(Object.entries(target).filter(([key]) => key !== limit && !(limit === "pixels" && key === "distance")));
  const withStart = (base: Target, limit: Limit): Target => ({
    ...base,
    [limit]: LIMITS.find(({ value }) => value === limit)?.start(prop) ?? 1,
    ...(limit === "pixels" ? { distance: 10 } : {}),
  });
  return (
    <div className="mb-1">
      {target.hand_made != null && (
        <div className="flex items-center gap-1">
          <span className="w-12 text-quiet">LOD{index}</span>
          <span className="min-w-0 grow truncate" title={target.hand_made}>
            by hand, {target.hand_made}
          </span>
          {!limits.length && (
            <button type="button" aria-label={`Remove LOD${index}`} className="size-6 shrink-0 text-quiet hover:text-ink" onClick={onRemove}>
              ✕
            </button>
          )}
        </div>
      )}
      {target.hand_made == null && limits.map((limit, k) => (
        <div key={limit.value} className="mb-0.5 flex items-center gap-1">
          <span className="w-12 text-quiet">{k === 0 ? `LOD${index}` : "or at"}</span>
          <Figure
            label={`LOD${index}: ${limit.unit}`}
            value={(limit.value === "ratio" ? 100 : 1) * (target[limit.value] ?? 0)}
            onDraft={(value) => limit.value !== "pixels" && onPreview(limit.value, limit.value === "ratio" ? value / 100 : value)}
            onCommit={(value) => onChange({ ...target, [limit.value]: limit.value === "ratio" ? Math.round(1000 * value) / 1e5 : value })}
          />
          <SelectBox
            label={`What stops LOD${index}`}
            className="min-w-0 grow"
            value={limit.value}
            options={[limit, ...free].map(({ value, label }) => ({ value, label }))}
            onChange={(next) => onChange(withStart(without(limit.value), next as Limit))}
          />
          {limit.value === "pixels" && <Figure label={`LOD${index}: metres from the viewer`} value={target.distance ?? 10} onCommit={(distance) => onChange({ ...target, distance })} />}
          <button
            type="button"
            aria-label={limits.length > 1 ? `Remove this limit of LOD${index}` : `Remove LOD${index}`}
            className="size-6 shrink-0 text-quiet hover:text-ink"
            onClick={() => (limits.length > 1 ? onChange(without(limit.value)) : onRemove())}
          >
            ✕
          </button>
        </div>
      ))}
      <div className="flex gap-3">
        {limits.length < 3 && target.hand_made == null && (
          <Button kind="quiet" className="!h-5 !px-0 text-sm" aria-label={`Another limit for LOD${index}`} onClick={() => onChange(withStart(target, free.find(({ value }) => value === "tolerance")?.value ?? "triangles"))}>
            + or at
          </Button>
        )}
        {onInsert && (
          <Button kind="quiet" className="!h-5 !px-0 text-sm" aria-label={`Insert a level below LOD${index}`} onClick={onInsert}>
            + below
          </Button>
        )}
        <Button kind="quiet" className="!h-5 !px-0 text-sm" aria-expanded={isOpen} aria-label={`More of LOD${index}`} onClick={() => setOpen(!isOpen)}>
          {isOpen ? "less" : `more${hasOwn(target) ? " •" : ""}`}
        </Button>
      </div>
      {isOpen && <LevelMore index={index} target={target} prop={prop} onChange={(own) => onChange(reducible(given({ ...target, ...own })))} />}
    </div>
  );
}

function Figure({ label, value, onCommit, onDraft }: { label: string; value: number; onCommit: (value: number) => void; onDraft?: (value: number) => void }) {
  const shown = String(Number(value.toPrecision(6)));
  const [draft, setDraft] = useState(shown);
  useEffect(() => setDraft(shown), [shown]);
  const commit = () => {
    const next = Number(draft.replace(",", "."));
    if (Number.isFinite(next) && next > 0) {
      if (next !== Number(shown)) onCommit(next);
    } else setDraft(shown);
  };
  return (
    <input
      aria-label={label}
      inputMode="decimal"
      value={draft}
      onChange={(event) => {
        setDraft(event.target.value);
        const next = Number(event.target.value.replace(",", "."));
        if (onDraft && Number.isFinite(next) && next > 0) onDraft(next);
      }}
      onBlur={commit}
      // Leaving the field commits it, and gives the keys back to the Bench.
      onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
      className="figure h-7 w-14 rounded border border-rule-control bg-sheet px-1.5 text-right text-ink"
    />
  );
}

/** A target without what it does not say. */
function given(target: Target): Target {
  return Object.fromEntries(Object.entries(target).filter(([, value]) => value != null && !(Array.isArray(value) && !value.length)));
}

/** A level that is neither modelled nor says how far it is reduced would be none. */
function reducible(target: Target): Target {
  return target.hand_made != null || (target.even && target.edge_mm != null) || LIMITS.some(({ value }) => target[value] != null) ? target : { ...target, ratio: 0.1 };
}

function hasOwn(target: Target): boolean {
  return !!target.texture_step || !!target.even || (["normals", "silhouette", "curved", "drop", "drop_pixels", "from_distance", "hand_made"] as const).some((key) => target[key] != null);
}

/** The levels in the order of their counts, whichever of them was changed. */
function fallen(levels: Target[]): Target[] {
  const key = (["ratio", "triangles", "vertices"] as const).find((limit) => levels.every((level) => level[limit] != null));
  return key ? [...levels].sort((one, two) => (two[key] ?? 0) - (one[key] ?? 0)) : levels;
}

/** A level half way, by what both say. */
function between(one: Target, two: Target): Target {
  const next: Target = {};
  for (const { value } of LIMITS) {
    const [a, b] = [one[value], two[value]];
    if (a == null || b == null) continue;
    const middle = Math.sqrt(a * b);
    next[value] = value === "triangles" || value === "vertices" ? Math.round(middle) : Number(middle.toPrecision(3));
  }
  if (next.pixels != null) next.distance = one.distance ?? 10;
  return Object.keys(next).length ? next : further(one);
}

/** Half of what the last level keeps, or twice what it may be off. */
function further(target: Target): Target {
  const next: Target = { ...target };
  delete next.from_distance;
  delete next.hand_made;
  if (target.ratio != null) next.ratio = Math.max(Math.round(target.ratio * 500) / 1000, 0.001);
  for (const key of ["triangles", "vertices"] as const) {
    const value = target[key];
    if (value != null) next[key] = Math.max(Math.round(value / 2), 4);
  }
  for (const key of ["tolerance", "tolerance_mm", "pixels"] as const) {
    const value = target[key];
    if (value != null) next[key] = 2 * value;
  }
  return next;
}
