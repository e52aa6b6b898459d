import type { PropDetail } from "../../api/client";
import { Button } from "../../parts/Button";
import { CheckRow } from "../../parts/CheckRow";
import { plural } from "../../parts/format";
import type { Decide, Settings } from "../bench";
import { settingFields } from "../settingFields";
import type { Height } from "./mapChoices";
import { MapSettings } from "./MapSettings";
import { PackingEditor } from "./PackingEditor";
import { type Mended, repairsFor } from "./repairs";
import type { TextureRow } from "./words";

type Textures = Settings["textures"];

const OUTPUTS: { value: Textures["output"]; label: string }[] = [
  { value: "destination", label: "As the destination asks" },
  { value: "source", label: "Images as they came" },
  { value: "dds", label: "GPU textures, DDS" },
  { value: "ktx2", label: "GPU textures, KTX2" },
];
const QUALITIES: { value: Textures["quality"]; label: string }[] = [
  { value: "fast", label: "Fast" },
  { value: "good", label: "Good" },
  { value: "best", label: "Best" },
];
const MIPS: { value: Textures["mips"]; label: string }[] = [
  { value: "lanczos", label: "Lanczos" },
  { value: "kaiser", label: "Kaiser" },
  { value: "mitchell", label: "Mitchell" },
  { value: "box", label: "Box" },
  { value: "none", label: "No mips" },
];

interface TexturesSettingsProps {
  prop: PropDetail;
  row: TextureRow | null;
  decide: Decide;
  onDraft: (height: Height | null) => void;
}

/** The form in which images ship, and what is decided about the one in hand. */
export function TexturesSettings({ prop, row, decide, onDraft }: TexturesSettingsProps) {
  const settings = prop.settings.textures;
  const field = settingFields("textures", settings, decide);
  const rows = prop.facts.textures?.textures ?? [];
  return (
    <div className="space-y-2">
      <Repairs repairs={repairsFor(rows, settings)} decide={decide} />
      {field.choice("output", "Ships as", OUTPUTS)}
      {field.choice("quality", "Quality", QUALITIES, { width: "w-40" })}
      {field.choice("mips", "Filter of mips", MIPS, { width: "w-40" })}
      {field.number("sharpening", "Sharpen mips", { unit: "%", factor: 100 })}
      {field.check("perceptual", "Weigh colours as the eye does", "usually looks better, on hard edges worse")}
      {field.check("roughen", "Roughen mips by normals", "what averaging takes from a normal map, roughness gains")}
      {field.check(
        "bake",
        "Bake factors into maps",
        "also strengths, vertex colours, and transforms of UVs that all maps share",
      )}
      <CheckRow
        label="Resize to powers of two"
        checked={settings.sizes === "power-of-two"}
        onChange={(on) => decide("textures", { sizes: on ? "power-of-two" : "keep" })}
      />
      {field.number("largest", "Longest side", { unit: "px" })}
      {row && row.ships_as !== "" && <MapSettings row={row} settings={settings} decide={decide} onDraft={onDraft} />}
      <PackingEditor
        packings={settings.packings}
        isIdle={!rows.some(({ made }) => made !== null)}
        onChange={(packings) => decide("textures", { packings })}
      />
    </div>
  );
}

/** What mends faults that were found, for all textures that have them. */
function Repairs({ repairs, decide }: { repairs: Mended[]; decide: Decide }) {
  if (!repairs.length) return null;
  return (
    <section aria-label="Repairs" className="space-y-1 border-b border-rule pb-2">
      <h3 className="font-semibold">Repairs</h3>
      {repairs.map(({ words, textures, change }) => (
        <div key={words} className="flex items-center justify-between gap-2">
          <span className="text-sm text-quiet">{plural(textures, "texture")}</span>
          <Button onClick={() => decide("textures", change)}>{words}</Button>
        </div>
      ))}
    </section>
  );
}
