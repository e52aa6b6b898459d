import type { PropDetail } from "../../api/client";
import { settingFields } from "../settingFields";
import type { Decide, Settings } from "../bench";

type Cleanup = Settings["cleanup"];
type KeyOf<Kind> = { [Key in keyof Cleanup]: Cleanup[Key] extends Kind ? Key : never }[keyof Cleanup];

interface Tolerance {
  key: KeyOf<number>;
  label: string;
  unit: string;
  /** What the setting is multiplied by to be shown in its unit. */
  factor?: number;
}

interface Repair {
  key: KeyOf<boolean>;
  label: string;
  tolerance?: Tolerance;
}

const REPAIRS: Repair[] = [
  { key: "non_finite", label: "Non-finite values" },
  { key: "loose", label: "Loose vertices and edges" },
  { key: "duplicates", label: "Duplicate faces" },
  { key: "unwelded", label: "Unwelded vertices", tolerance: { key: "weld_mm", label: "weld distance", unit: "mm" } },
  { key: "zero_area", label: "Zero-area faces" },
  {
    key: "slivers",
    label: "Slivers",
    tolerance: { key: "sliver_ratio", label: "height under", unit: "%", factor: 100 },
  },
  { key: "t_vertices", label: "T-vertices", tolerance: { key: "t_vertex_mm", label: "within", unit: "mm" } },
  { key: "non_manifold_edges", label: "Non-manifold edges" },
  { key: "non_manifold_vertices", label: "Non-manifold vertices" },
  { key: "winding", label: "Inconsistent winding" },
  {
    key: "small_shells",
    label: "Small shells",
    tolerance: { key: "small_shell_ratio", label: "under", unit: "%", factor: 100 },
  },
  { key: "holes", label: "Small flat holes", tolerance: { key: "hole_mm", label: "up to", unit: "mm" } },
];

const CHECKS: Tolerance[] = [
  { key: "planarity_ratio", label: "Non-planar beyond", unit: "%", factor: 100 },
  { key: "overlap_mm", label: "Overlapping within", unit: "mm" },
];

/** A switch for every repair, with its tolerance; everything is found and counted either way. */
export function CleanupSettings({ prop, decide }: { prop: PropDetail; decide: Decide }) {
  const settings = prop.settings.cleanup;
  const field = settingFields("cleanup", settings, decide);
  const tolerated = ({ key, label, unit, factor }: Tolerance) => field.number(key, label, { unit, factor });
  return (
    <div className="space-y-1.5">
      <div className="text-sm text-quiet">Repair</div>
      {REPAIRS.map(({ key, label, tolerance }) => (
        <div key={key}>
          {field.check(key, label)}
          {tolerance && settings[key] && <div className="mt-1 ml-6">{tolerated(tolerance)}</div>}
        </div>
      ))}
      <div className="border-t border-rule pt-1.5 text-sm text-quiet">Report only</div>
      {CHECKS.map(tolerated)}
    </div>
  );
}
