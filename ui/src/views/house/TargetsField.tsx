import { Button } from "../../parts/Button";
import { SelectBox } from "../../parts/SelectBox";
import { NumberField } from "../../parts/TextField";
import type { Data } from "./schema";

const TARGETS = [
  { value: "ratio", label: "% of LOD0", factor: 100 },
  { value: "triangles", label: "triangles", factor: 1 },
  { value: "vertices", label: "vertices", factor: 1 },
  { value: "tolerance", label: "% of the diagonal", factor: 1 },
  { value: "pixels", label: "px error", factor: 1 },
] as const;
type Target = (typeof TARGETS)[number]["value"];

/** The levels below LOD0, one row each. */
export function TargetsField({ value, onChange }: { value: Data[]; onChange: (value: Data[]) => void }) {
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
