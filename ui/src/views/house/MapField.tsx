import { SelectBox } from "../../parts/SelectBox";
import { TextField } from "../../parts/TextField";
import type { FieldSpec } from "./schema";

export const NONE = "none";

/** A setting that has a value for each of its keys. */
export function MapField({
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
