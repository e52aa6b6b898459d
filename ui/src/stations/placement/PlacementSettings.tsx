import type { PropDetail } from "../../api/client";
import { Button } from "../../parts/Button";
import { Segmented } from "../../parts/Segmented";
import { NumberField } from "../../parts/TextField";
import type { Decide, Settings } from "../bench";
import { settingFields } from "../settingFields";

type Placement = Settings["placement"];
export type PickKind = "vertex" | "edge" | "face";

const UNITS: { value: Placement["unit"]; label: string }[] = [
  { value: "file", label: "as the file says" },
  { value: "mm", label: "millimetres" },
  { value: "cm", label: "centimetres" },
  { value: "m", label: "metres" },
  { value: "in", label: "inches" },
  { value: "ft", label: "feet" },
];
const UPS: { value: Placement["up"]; label: string }[] = [
  { value: "file", label: "as the file says" },
  { value: "y", label: "Y points up" },
  { value: "z", label: "Z points up" },
  { value: "x", label: "X points up" },
];
const PIVOTS: { value: Placement["pivot"]; label: string }[] = [
  { value: "stands", label: "Stands: at the base" },
  { value: "hangs", label: "Hangs: at the top" },
  { value: "hinges", label: "Hinges: on a side" },
  { value: "held", label: "Held: within it" },
  { value: "grid", label: "Snaps to a grid: a corner" },
  { value: "source", label: "The source's origin" },
  { value: "object", label: "The object's own origin" },
  { value: "bounds", label: "A place of the bounds" },
  { value: "mass", label: "Centre of mass" },
  { value: "point", label: "A place on the model" },
];
const SIDES: { value: string; label: string }[] = [
  { value: "-1", label: "low" },
  { value: "0", label: "mid" },
  { value: "1", label: "high" },
];

interface PlacementSettingsProps {
  prop: PropDetail;
  decide: Decide;
  pick: PickKind | null;
  onPick: (kind: PickKind | null) => void;
  spin: boolean;
  onSpin: (spin: boolean) => void;
}

/** Units, axes, scale, and what the engine turns the prop about. */
export function PlacementSettings({ prop, decide, pick, onPick, spin, onSpin }: PlacementSettingsProps) {
  const settings = prop.settings.placement;
  const set = (changes: Partial<Placement>) => decide("placement", changes);
  const field = settingFields("placement", settings, decide);
  const point = settings.point ?? [0, 0, 0];
  const axes = ["x", "y", "z"] as const;
  return (
    <div className="space-y-2.5">
      {field.choice("unit", "Unit", UNITS, { width: "w-44", label: "Unit of the source" })}
      {field.choice("up", "Up", UPS, { width: "w-44", label: "Axis that points up" })}
      {field.number("scale", "Scale factor", { unit: "×" })}
      {field.number("yaw", "Yaw", { unit: "°" })}
      <div className="border-t border-rule pt-2">{field.choice("pivot", "Pivot", PIVOTS)}</div>
      {settings.pivot === "bounds" &&
        axes.map((axis, k) => (
          <div key={axis} className="flex items-center justify-between">
            <span className="figure text-quiet">{axis.toUpperCase()}</span>
            <Segmented
              label={`Pivot along ${axis.toUpperCase()}`}
              value={String(settings.anchor[k])}
              options={SIDES}
              onChange={(side) =>
                set({ anchor: settings.anchor.map((old, i) => (i === k ? Number(side) : old)) as Placement["anchor"] })
              }
            />
          </div>
        ))}
      {settings.pivot === "point" && (
        <div className="space-y-1.5">
          <div className="text-sm text-quiet">
            {pick ? `Click ${pick === "edge" ? "an edge" : `a ${pick}`} on the model` : "Click one on the model:"}
          </div>
          <div className="flex gap-1">
            {(["vertex", "edge", "face"] as const).map((kind) => (
              <Button
                key={kind}
                pressed={pick === kind}
                className="grow justify-center"
                onClick={() => onPick(pick === kind ? null : kind)}
              >
                {kind}
              </Button>
            ))}
          </div>
          {axes.map((axis, k) => (
            <NumberField
              key={axis}
              label={`${axis.toUpperCase()} in the source`}
              inline
              value={point[k] ?? 0}
              onCommit={(value) =>
                set({
                  point: point.map((old, i) => (i === k ? value : old)) as [number, number, number],
                  snap_to: "typed",
                })
              }
            />
          ))}
        </div>
      )}
      {field.check(
        "keep_position",
        "Keep position in the scene",
        "the root node carries the place; the vertices stay about the pivot",
      )}
      <Button
        pressed={spin}
        className="w-full justify-center"
        onClick={() => onSpin(!spin)}
        title="turn the prop about its pivot (S)"
      >
        {spin ? "Stop" : "Spin about the pivot"}
      </Button>
    </div>
  );
}
