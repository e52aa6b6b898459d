import { Button } from "../../parts/Button";
import { Checkbox } from "../../parts/Checkbox";
import { SelectBox } from "../../parts/SelectBox";
import { NumberField, TextField } from "../../parts/TextField";
import { type Packing, PackingEditor } from "../../stations/textures/PackingEditor";
import type { Data, FieldSpec } from "./schema";
import { JsonField } from "./JsonField";

interface SchemaFieldProps {
  spec: FieldSpec;
  value: unknown;
  onChange: (value: unknown) => void;
}

const NONE = "none";

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
          onCommit={(text) => onChange(split(text).map(Number).filter(Number.isFinite))}
        />
      );
    case "map":
      return <Mapped spec={spec} value={(value ?? {}) as Record<string, string>} onChange={onChange} />;
    case "targets":
      return <Targets value={(value ?? []) as Data[]} onChange={onChange} />;
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
  if (!spec.nullable)
    return (
      <NumberField
        bare
        label={spec.label}
        unit={spec.unit}
        limits={spec.limits}
        value={typeof value === "number" ? value : 0}
        onCommit={onChange}
      />
    );
  return (
    <TextField
      bare
      label={spec.label}
      unit={spec.unit}
      placeholder="no limit"
      value={typeof value === "number" ? String(value) : ""}
      onCommit={(text) => {
        const number = Number(text.replace(",", "."));
        if (!text.trim()) onChange(null);
        else if (Number.isFinite(number)) onChange(spec.limits.whole ? Math.round(number) : number);
      }}
    />
  );
}

function Mapped({
  spec,
  value,
  onChange,
}: {
  spec: FieldSpec;
  value: Record<string, string>;
  onChange: (value: Record<string, string>) => void;
}) {
  const put = (key: string, next: string) => {
    const others = Object.fromEntries(Object.entries(value).filter(([known]) => known !== key));
    onChange(next === "" ? others : { ...others, [key]: next });
  };
  return (
    <div className="grid grid-cols-[auto_1fr] items-center gap-x-2 gap-y-0.5">
      {spec.keys.map((key) => (
        <div key={key} className="contents">
          <span className="text-sm text-quiet">{key}</span>
          {spec.options.length ? (
            <SelectBox
              label={`${spec.label}: ${key}`}
              className="w-full"
              value={value[key] ?? NONE}
              options={[
                { value: NONE, label: "as it needs" },
                ...spec.options.map((option) => ({ value: option, label: option })),
              ]}
              onChange={(next) => put(key, next === NONE ? "" : next)}
            />
          ) : (
            <TextField
              bare
              label={`${spec.label}: ${key}`}
              placeholder={key}
              value={value[key] ?? ""}
              onCommit={(text) => put(key, text)}
            />
          )}
        </div>
      ))}
    </div>
  );
}

const TARGETS = [
  { value: "ratio", label: "% of LOD0", factor: 100 },
  { value: "triangles", label: "triangles", factor: 1 },
  { value: "vertices", label: "vertices", factor: 1 },
  { value: "tolerance", label: "% of the diagonal", factor: 1 },
  { value: "pixels", label: "px error", factor: 1 },
] as const;
type Target = (typeof TARGETS)[number]["value"];

/** The levels below LOD0, one row each. */
function Targets({ value, onChange }: { value: Data[]; onChange: (value: Data[]) => void }) {
  const put = (at: number, change: Data) => onChange(value.map((row, k) => (k === at ? { ...row, ...change } : row)));
  const last = value.at(-1);
  const add = () => {
    const half = typeof last?.ratio === "number" ? last.ratio / 2 : 0.5;
    onChange([...value, { ratio: half }]);
  };
  return (
    <div className="space-y-1">
      {value.map((row, k) => {
        const kind = TARGETS.find((target) => typeof row[target.value] === "number") ?? TARGETS[0];
        return (
          <div key={k} className="flex items-center gap-1">
            <span className="figure w-10 shrink-0 text-sm text-quiet">LOD{k + 1}</span>
            <NumberField
              bare
              label={`Target of LOD${k + 1}`}
              factor={kind.factor}
              limits={{ above: 0 }}
              value={Number(row[kind.value] ?? 0.5)}
              onCommit={(next) => put(k, { [kind.value]: next })}
            />
            <SelectBox<Target>
              label={`Measure of LOD${k + 1}`}
              className="w-32 shrink-0"
              value={kind.value}
              options={TARGETS.map(({ value: of, label }) => ({ value: of, label }))}
              onChange={(next) => put(k, { [kind.value]: null, [next]: FIRST[next] })}
            />
            <Button
              kind="quiet"
              aria-label={`Remove LOD${k + 1}`}
              onClick={() => onChange(value.filter((_, j) => j !== k))}
            >
              ✕
            </Button>
          </div>
        );
      })}
      <Button onClick={add}>Add a level</Button>
    </div>
  );
}

const FIRST: Record<Target, number> = { ratio: 0.5, triangles: 1000, vertices: 1000, tolerance: 0.5, pixels: 1 };
