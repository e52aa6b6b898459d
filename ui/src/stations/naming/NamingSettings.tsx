import type { PropDetail } from "../../api/client";
import { SelectBox } from "../../parts/SelectBox";
import { NumberField, TextField } from "../../parts/TextField";
import { CheckRow } from "../../parts/CheckRow";
import type { Decide, Settings } from "../bench";

const CASES: { value: Settings["naming"]["case"]; label: string }[] = [
  { value: "keep", label: "as they are" },
  { value: "lower", label: "lower case" },
  { value: "upper", label: "UPPER CASE" },
  { value: "title", label: "Title_Case" },
];

/** The prop's own name, and the house's rules for all names. */
export function NamingSettings({
  prop,
  decide,
  rename,
}: {
  prop: PropDetail;
  decide: Decide;
  rename: (name: string) => void;
}) {
  const { naming } = prop.settings;
  return (
    <div className="space-y-2">
      <TextField label="Name" value={prop.name} onCommit={rename} />
      <div className="grid grid-cols-2 gap-2">
        <TextField
          label="Prefix"
          value={naming.prefix}
          placeholder="none"
          onCommit={(prefix) => decide("naming", { prefix })}
        />
        <TextField
          label="Suffix"
          value={naming.suffix}
          placeholder="none"
          onCommit={(suffix) => decide("naming", { suffix })}
        />
      </div>
      <div className="space-y-1">
        <div className="text-sm text-quiet">Letters</div>
        <SelectBox
          label="Letters of names"
          className="w-full"
          value={naming.case}
          options={CASES}
          onChange={(value) => decide("naming", { case: value })}
        />
      </div>
      <NumberField
        label="Maximum length"
        unit="characters"
        inline
        value={naming.longest}
        onCommit={(longest) => decide("naming", { longest: Math.round(longest) })}
      />
      <CheckRow label="Allow hyphens" checked={naming.hyphens} onChange={(hyphens) => decide("naming", { hyphens })} />
    </div>
  );
}
