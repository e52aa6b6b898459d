import type { PropDetail } from "../../api/client";
import { Button } from "../../parts/Button";
import { count } from "../../parts/format";
import { RangeSlider } from "../../parts/RangeSlider";
import { SelectBox } from "../../parts/SelectBox";
import { settingFields } from "../settingFields";
import { CheckRow } from "../../parts/CheckRow";
import type { Sweep } from "./aims";
import type { Marking } from "./useMarking";
import type { Decide, Settings } from "../bench";

type Normals = Settings["normals"];

const SOURCES: { value: Normals["source"]; label: string }[] = [
  { value: "imported", label: "Keep the source's" },
  { value: "groups", label: "Smoothing groups" },
  { value: "angle", label: "By angle" },
  { value: "smooth", label: "All smooth" },
  { value: "flat", label: "All flat" },
];
const WEIGHTINGS: { value: Normals["weighting"]; label: string }[] = [
  { value: "angle", label: "Corner angle" },
  { value: "area", label: "Face area" },
  { value: "area-angle", label: "Area × angle" },
  { value: "large", label: "Largest faces first" },
];
const SWEEPS: { kind: Sweep; label: string }[] = [
  { kind: "above", label: "above the angle" },
  { kind: "islands", label: "UV island borders" },
  { kind: "materials", label: "material borders" },
];

interface NormalsSettingsProps {
  prop: PropDetail;
  angle: number;
  onAngle: (angle: number) => void;
  decide: Decide;
  marking: Marking;
}

/** Where normals come from, how faces count in them, and what was marked by hand. */
export function NormalsSettings({ prop, angle, onAngle, decide, marking }: NormalsSettingsProps) {
  const settings = prop.settings.normals;
  const set = (changes: Partial<Normals>) => decide("normals", changes);
  const field = settingFields("normals", settings, decide);
  const parts = prop.facts.normals?.parts ?? [];
  const hasOwn = prop.facts.source?.has_normals ?? false;
  const byAngle = settings.source !== "smooth" && settings.source !== "flat";
  const marks = settings.hard.length + settings.soft.length + settings.patches.length;
  return (
    <div className="space-y-2">
      <SelectBox
        label="Normals come from"
        className="w-full"
        value={settings.source}
        options={SOURCES}
        onChange={(source) => set({ source })}
      />
      {settings.source === "imported" && (
        <p className="text-sm text-quiet">
          {hasOwn ? "Kept where they are valid." : `The source has none: ${prop.facts.normals?.words ?? "by angle"}.`}
        </p>
      )}
      {byAngle && (
        <>
          <div className="flex items-center justify-between">
            <span className="text-quiet">Hard above</span>
            <span className="figure">{angle.toFixed(0)}°</span>
          </div>
          <RangeSlider
            label="Hard above, in degrees"
            value={angle}
            min={0}
            max={180}
            step={1}
            onChange={onAngle}
            onCommit={(value) =>
              set(settings.source === "angle" ? { angle: value } : { angle: value, source: "angle" })
            }
          />
        </>
      )}
      {field.choice("weighting", "Weighting", WEIGHTINGS, { width: "w-38", label: "Normal weighting" })}
      {settings.weighting === "large" && (
        <>
          {field.number("large_face_ratio", "Counts from", { unit: "%", factor: 100 })}
          {field.number("large_face_strength", "Strength", { unit: "%", factor: 100 })}
        </>
      )}
      {settings.source === "imported" && hasOwn && parts.length > 1 && (
        <div
          role="group"
          aria-label="Parts that keep their normals"
          className="max-h-32 space-y-1 overflow-y-auto border-t border-rule pt-2"
        >
          <div className="text-sm text-quiet">Keep the normals of</div>
          {parts.map(({ path }) => (
            <CheckRow
              key={path}
              label={path}
              checked={!settings.recomputed_parts.includes(path)}
              onChange={(keeps) =>
                set({
                  recomputed_parts: keeps
                    ? settings.recomputed_parts.filter((other) => other !== path)
                    : [...settings.recomputed_parts, path],
                })
              }
            />
          ))}
        </div>
      )}
      <div className="space-y-1 border-t border-rule pt-2">
        <div className="text-sm text-quiet">Mark all edges</div>
        {SWEEPS.map(({ kind, label }) => (
          <div
            key={kind}
            className="flex items-center justify-between gap-1"
            onPointerEnter={() => marking.aimSweep(kind)}
            onPointerLeave={() => marking.aimSweep(null)}
          >
            <span className="text-sm leading-4">{label}</span>
            <span className="flex shrink-0">
              {(["hard", "soft", "clear"] as const).map((act) => (
                <button
                  key={act}
                  type="button"
                  disabled={!marking.isReady}
                  aria-label={act === "clear" ? `Clear all edges ${label}` : `Mark all edges ${label} ${act}`}
                  onClick={() => marking.sweep(kind, act)}
                  className="px-1 text-mark hover:underline disabled:text-quiet"
                >
                  {act === "clear" ? "✕" : act}
                </button>
              ))}
            </span>
          </div>
        ))}
      </div>
      {marks > 0 && (
        <div className="space-y-1">
          <p className="figure text-sm">
            {count(settings.hard.length)} hard · {count(settings.soft.length)} soft · {count(settings.patches.length)}{" "}
            patches
          </p>
          <Button className="w-full justify-center" onClick={() => set({ hard: [], soft: [], patches: [] })}>
            Clear all marks
          </Button>
        </div>
      )}
    </div>
  );
}
