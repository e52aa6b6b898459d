import type { PropDetail } from "../../api/client";
import { settingFields } from "../settingFields";
import { OptionalNumberField } from "../../parts/TextField";
import type { Decide } from "../bench";

/** The view that switches are proposed for, and what moves all of them. */
export function SwitchSettings({ prop, decide }: { prop: PropDetail; decide: Decide }) {
  const { levels } = prop.settings;
  const field = settingFields("levels", levels, decide);
  return (
    <div className="space-y-1.5 border-t border-rule pt-2">
      <div className="text-sm text-quiet">Switches</div>
      {field.number("max_pixel_error", "Maximum pixel error", { unit: "px" })}
      {field.number("view_height", "View height", { unit: "px" })}
      {field.number("vertical_fov", "Vertical field of view", { unit: "°" })}
      {field.number("switch_bias", "Switch bias", { unit: "×" })}
      {field.number("cull_pixels", "Not drawn below", { unit: "px" })}
      <OptionalNumberField
        inline
        label="Not drawn beyond"
        unit="m"
        placeholder="by size"
        limits={{ above: 0 }}
        value={levels.cull_distance ?? null}
        onCommit={(cull_distance) => decide("levels", { cull_distance })}
      />
    </div>
  );
}
