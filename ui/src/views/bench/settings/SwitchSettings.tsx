import type { PropDetail } from "../../../api/client";
import { NumberField, TextField } from "../../../parts/TextField";
import type { Decide } from "../useDecisions";

/** The view in which switches are judged, and what moves all of them. */
export function SwitchSettings({ prop, decide }: { prop: PropDetail; decide: Decide }) {
  const settings = prop.settings.levels as unknown as Record<"switch_pixels" | "view_height" | "view_angle" | "bias" | "last_pixels", number> & { last_distance: number | null };
  const set = (key: string, low: number, high: number) => (value: number) => decide("levels", { [key]: Math.min(Math.max(value, low), high) });
  return (
    <div className="space-y-1.5 border-t border-rule pt-2">
      <div className="text-sm text-quiet">Switches</div>
      <NumberField inline label="Change unseen up to" unit="px" value={settings.switch_pixels} onCommit={set("switch_pixels", 0.05, 100)} />
      <NumberField inline label="View, lines" unit="px" value={settings.view_height} onCommit={(value) => set("view_height", 100, 20_000)(Math.round(value))} />
      <NumberField inline label="View, height" unit="°" value={settings.view_angle} onCommit={set("view_angle", 5, 150)} />
      <NumberField inline label="Bias of all" unit="×" value={settings.bias} onCommit={set("bias", 0.01, 20)} />
      <NumberField inline label="Not drawn under" unit="px" value={settings.last_pixels} onCommit={set("last_pixels", 0, 500)} />
      <TextField
        inline
        label="Not drawn past"
        unit="m"
        placeholder="by size"
        value={settings.last_distance == null ? "" : String(settings.last_distance)}
        onCommit={(text) => {
          const value = Number(text.trim().replace(",", "."));
          decide("levels", { last_distance: text.trim() && value > 0 ? value : null });
        }}
      />
    </div>
  );
}
