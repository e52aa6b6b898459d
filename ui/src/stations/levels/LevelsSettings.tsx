import type { PropDetail } from "../../api/client";
import { Button } from "../../parts/Button";
import { CheckRow } from "../../parts/CheckRow";
import { settingFields } from "../settingFields";
import type { Decide, Settings } from "../bench";
import { LevelTable } from "./LevelTable";
import { StatesSettings } from "./StatesSettings";
import { SwitchSettings } from "./SwitchSettings";
import type { Limit } from "./targets";

type Levels = Settings["levels"];

const NORMALS: { value: Levels["normals"]; label: string }[] = [
  { value: "closest", label: "Closest to LOD0's shading" },
  { value: "keep", label: "Keep LOD0's" },
  { value: "recompute", label: "Recompute" },
  { value: "transfer", label: "Transfer from LOD0" },
];
const PLACEMENTS: { value: Levels["placement"]; label: string }[] = [
  { value: "optimal", label: "Optimal, least error" },
  { value: "original", label: "LOD0's own, one buffer" },
];
const MIRRORS: { value: Levels["mirror"]; label: string }[] = [
  { value: "off", label: "none" },
  { value: "found", label: "as found" },
  { value: "x", label: "across X" },
  { value: "y", label: "across Y" },
  { value: "z", label: "across Z" },
];
const SIDES: { value: Levels["mirror_from"]; label: string }[] = [
  { value: "positive", label: "from +" },
  { value: "negative", label: "from −" },
];

interface LevelsSettingsProps {
  prop: PropDetail;
  left: number;
  onLevel: (index: number) => void;
  decide: Decide;
  isPicking: boolean;
  onPick: (on: boolean) => void;
  /** Shows at once what a limit that is being typed would leave. */
  onPreview: (limit: Exclude<Limit, "pixels">, value: number) => void;
}

/** How far each level goes, and what holds on the way. */
export function LevelsSettings({ prop, left, onLevel, decide, isPicking, onPick, onPreview }: LevelsSettingsProps) {
  const { levels } = prop.settings;
  const field = settingFields("levels", levels, decide);
  return (
    <div className="space-y-2">
      <LevelTable prop={prop} left={left} onLevel={onLevel} decide={decide} onPreview={onPreview} />
      {levels.has_levels && <SwitchSettings prop={prop} decide={decide} />}
      <StatesSettings prop={prop} decide={decide} />
      <div className="space-y-1.5 border-t border-rule pt-2">
        {field.choice("placement", "Vertices", PLACEMENTS, { width: "w-48", label: "Vertex placement" })}
        {field.choice("normals", "Normals", NORMALS, { width: "w-48", label: "Normals of the levels" })}
        {field.choice("mirror", "Mirror", MIRRORS, { width: "w-48" })}
        {levels.mirror !== "off" && field.choice("mirror_from", "Side that is mirrored", SIDES, { width: "w-22" })}
        {field.number("silhouette_weight", "Silhouette weight")}
        {field.number("curvature_weight", "Curvature weight")}
        {field.check("lock_borders", "Lock open boundaries")}
        {field.check(
          "keep_shells",
          "Keep all shells",
          "else far levels drop small shells whole where that costs least",
        )}
        {field.check(
          "keep_holes",
          "Keep through-holes",
          "else far levels close through-holes and small open boundaries where that costs least",
        )}
      </div>
      <Protected prop={prop} decide={decide} isPicking={isPicking} onPick={onPick} />
    </div>
  );
}

function Protected({
  prop,
  decide,
  isPicking,
  onPick,
}: Pick<LevelsSettingsProps, "prop" | "decide" | "isPicking" | "onPick">) {
  const { levels } = prop.settings;
  const parts = prop.parts.filter((part) => part.ships);
  return (
    <div className="border-t border-rule pt-2">
      <div className="mb-1 flex items-center justify-between text-sm text-quiet">
        <span>Protected from reduction</span>
        {levels.protected.length > 0 && (
          <Button kind="quiet" className="!h-6" onClick={() => decide("levels", { protected: [] })}>
            clear {levels.protected.length} {levels.protected.length === 1 ? "patch" : "patches"}
          </Button>
        )}
      </div>
      <Button
        pressed={isPicking}
        onClick={() => onPick(!isPicking)}
        title="click a patch on LOD0: it grows over folds up to 20°"
      >
        {isPicking ? "Click a patch of LOD0…" : "Protect a patch"}
      </Button>
      {parts.length > 1 && (
        <div className="mt-1 max-h-32 overflow-y-auto">
          {parts.map(({ path }) => (
            <CheckRow
              key={path}
              label={path}
              checked={levels.protected_parts.includes(path)}
              onChange={(on) =>
                decide("levels", {
                  protected_parts: on
                    ? [...levels.protected_parts, path]
                    : levels.protected_parts.filter((other) => other !== path),
                })
              }
            />
          ))}
        </div>
      )}
    </div>
  );
}
