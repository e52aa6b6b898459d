import type { PropDetail } from "../../api/client";
import { NumberField, TextField } from "../../parts/TextField";
import type { Decide } from "../bench";

type Key = "max_pixel_error" | "view_height" | "vertical_fov" | "switch_bias" | "cull_pixels";

/** The view that switches are proposed for, and what moves all of them. */
export function SwitchSettings({ prop, decide }: { prop: PropDetail; decide: Decide }) {
  const { levels } = prop.settings;
  const set = (key: Key, low: number, high: number) => (value: number) =>
    decide("levels", { [key]: Math.min(Math.max(value, low), high) });
  return (
    <div className="space-y-1.5 border-t border-rule pt-2">
      <div className="text-sm text-quiet">Switches</div>
      <NumberField
        inline
        label="Maximum pixel error"
        unit="px"
        value={levels.max_pixel_error}
        onCommit={set("max_pixel_error", 0.05, 100)}
      />
      <NumberField
        inline
        label="View height"
        unit="px"
        value={levels.view_height}
        onCommit={(value) => set("view_height", 100, 20_000)(Math.round(value))}
      />
      <NumberField
        inline
        label="Vertical field of view"
        unit="°"
        value={levels.vertical_fov}
        onCommit={set("vertical_fov", 5, 150)}
      />
      <NumberField
        inline
        label="Switch bias"
        unit="×"
        value={levels.switch_bias}
        onCommit={set("switch_bias", 0.01, 20)}
      />
      <NumberField
        inline
        label="Not drawn below"
        unit="px"
        value={levels.cull_pixels}
        onCommit={set("cull_pixels", 0, 500)}
      />
      <TextField
        inline
        label="Not drawn beyond"
        unit="m"
        placeholder="by size"
        value={levels.cull_distance == null ? "" : String(levels.cull_distance)}
        onCommit={(text) => {
          const value = Number(text.trim().replace(",", "."));
          decide("levels", { cull_distance: text.trim() && value > 0 ? value : null });
        }}
      />
    </div>
  );
}
