import { Checkbox } from "../../parts/Checkbox";
import { SelectBox } from "../../parts/SelectBox";
import { NumberField, OptionalNumberField, TextField } from "../../parts/TextField";
import { type Packing, PackingEditor } from "../../stations/textures/PackingEditor";
import type { Data, FieldSpec } from "./schema";
import { JsonField } from "./JsonField";
import { MapField, NONE } from "./MapField";
import { TargetsField } from "./TargetsField";

interface SchemaFieldProps {
  spec: FieldSpec;
  value: unknown;
  onChange: (value: unknown) => void;
}

/** The control of one setting, by what it may be. Its words stand beside it, so that it bears them as its name alone. */
export function SchemaField({ spec, value, onChange }: SchemaFieldProps) {
  switch (spec.widget) {
    case "choice":
      return <Choice spec={spec} value={value} onChange={onChange} />;
    case "check":
      return <Checkbox label={spec.label} checked={value === true} onChange={onChange} />;
    case "number":
      return <Amount spec={spec} value={value} onChange={onChange} />;
    case "text":
      return (
        <TextField
          bare
          live
          label={spec.label}
          value={typeof value === "string" ? value : ""}
          onCommit={(text) => onChange(text === "" && spec.nullable ? null : text)}
        />
      );
    case "words":
      return (
        <TextField
          bare
          label={spec.label}
          value={listed(value)}
          placeholder="none; several with commas"
          onCommit={(text) => onChange(split(text))}
        />
      );
    case "numbers":
      return (
        <TextField
          bare
          label={spec.label}
          unit={spec.unit}
          value={listed(value)}
          placeholder="none; several with commas"
          onCommit={(text) => {
            const numbers = split(text).map(Number);
            return numbers.every(Number.isFinite) && onChange(numbers);
          }}
        />
      );
    case "map":
      return <MapField spec={spec} value={(value ?? {}) as Record<string, string>} onChange={onChange} />;
    case "targets":
      return <TargetsField value={(value ?? []) as Data[]} onChange={onChange} />;
    case "packings":
      return <PackingEditor packings={(value ?? []) as Packing[]} isIdle={false} onChange={onChange} />;
    case "json":
      return <JsonField label={spec.label} value={value} onCommit={onChange} />;
  }
}

const listed = (value: unknown) => (Array.isArray(value) ? value.join(", ") : "");
const split = (text: string) =>
  text
    .split(/[,\s]+/)
    .map((word) => word.trim())
    .filter(Boolean);

function Choice({ spec, value, onChange }: SchemaFieldProps) {
  const options = spec.options.map((option) => ({ value: option, label: option }));
  // Numbers come from the schema as numbers, and a drop-down holds words.
  const back = (next: string) => (typeof spec.initial === "number" ? Number(next) : next);
  return (
    <SelectBox
      label={spec.label}
      className="w-full"
      value={value === null || value === undefined ? NONE : String(value as string | number)}
      options={spec.nullable ? [{ value: NONE, label: "none" }, ...options] : options}
      onChange={(next) => onChange(spec.nullable && next === NONE ? null : back(next))}
    />
  );
}

function Amount({ spec, value, onChange }: SchemaFieldProps) {
  const { label, unit, limits } = spec;
  const number = typeof value === "number" ? value : null;
  return spec.nullable ? (
    <OptionalNumberField
      bare
      label={label}
      unit={unit}
      limits={limits}
      placeholder="no limit"
      value={number}
      onCommit={onChange}
    />
  ) : (
    <NumberField bare label={label} unit={unit} limits={limits} value={number ?? 0} onCommit={onChange} />
  );
}
