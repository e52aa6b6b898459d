import type { PropDetail } from "../../api/client";
import { settingFields } from "../settingFields";
import { TextField } from "../../parts/TextField";
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
  const field = settingFields("naming", naming, decide);
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
      {field.choice("case", "Letters", CASES, { label: "Letters of names" })}
      {field.number("longest", "Maximum length", { unit: "chars" })}
      {field.check("hyphens", "Allow hyphens")}
    </div>
  );
}
