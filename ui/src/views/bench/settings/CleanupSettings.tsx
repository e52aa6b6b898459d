import type { PropDetail } from "../../../api/client";
import { NumberField } from "../../../parts/TextField";
import { Ticked } from "../../../parts/Ticked";
import type { Decide } from "../useDecisions";

interface Tolerance {
  key: string;
  label: string;
  unit: string;
  /** What the setting is multiplied by to be shown in its unit. */
  factor?: number;
}

interface Repair {
  key: string;
  label: string;
  tolerance?: Tolerance;
}

const REPAIRS: Repair[] = [
  { key: "values", label: "Values that are not finite" },
  { key: "loose", label: "Loose vertices and edges" },
  { key: "duplicates", label: "Repeated faces" },
  { key: "doubles", label: "Unwelded doubles", tolerance: { key: "weld_mm", label: "within", unit: "mm" } },
  { key: "no_surface", label: "Faces without surface" },
  { key: "needles", label: "Needle faces", tolerance: { key: "needle_share", label: "slimmer than", unit: "%", factor: 100 } },
  { key: "junctions", label: "T-junctions", tolerance: { key: "junction_mm", label: "within", unit: "mm" } },
  { key: "crowded", label: "Edges of 3 or more faces" },
  { key: "pinched", label: "Vertices that join fans" },
  { key: "winding", label: "Flipped, inside-out faces" },
  { key: "strays", label: "Tiny stray shells", tolerance: { key: "stray_share", label: "under", unit: "%", factor: 100 } },
  { key: "holes", label: "Small flat holes", tolerance: { key: "hole_mm", label: "up to", unit: "mm" } },
];

const CHECKS: Tolerance[] = [
  { key: "plane_share", label: "Off their plane by", unit: "%", factor: 100 },
  { key: "overlap_mm", label: "Overlapping within", unit: "mm" },
];

/** A switch for every repair, with its tolerance; everything is found and counted either way. */
export function CleanupSettings({ prop, decide }: { prop: PropDetail; decide: Decide }) {
  const settings = prop.settings.cleanup as Record<string, boolean | number>;
  const field = ({ key, label, unit, factor = 1 }: Tolerance) => (
    <NumberField label={label} unit={unit} inline value={(settings[key] as number) * factor} onCommit={(value) => value >= 0 && decide("cleanup", { [key]: value / factor })} />
  );
  return (
    <div className="space-y-1.5">
      <div className="text-sm text-quiet">Repaired are</div>
      {REPAIRS.map(({ key, label, tolerance }) => (
        <div key={key}>
          <Ticked label={label} checked={settings[key] === true} onChange={(on) => decide("cleanup", { [key]: on })} />
          {tolerance && settings[key] === true && <div className="mt-1 ml-6">{field(tolerance)}</div>}
        </div>
      ))}
      <div className="border-t border-rule pt-1.5 text-sm text-quiet">Told, not repaired</div>
      {CHECKS.map((check) => (
        <div key={check.key}>{field(check)}</div>
      ))}
    </div>
  );
}
