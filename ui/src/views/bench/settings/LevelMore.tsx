import type { PropDetail } from "../../../api/client";
import { SelectBox } from "../../../parts/SelectBox";
import { NumberField, TextField } from "../../../parts/TextField";
import { Ticked } from "../../../parts/Ticked";
import { HandMade } from "./HandMade";

/** What one level does otherwise than its chain. */
export interface LevelOwn {
  normals?: string | null;
  silhouette?: number | null;
  curved?: number | null;
  drop?: string[];
  drop_pixels?: number | null;
  from_distance?: number | null;
  hand_made?: string | null;
  texture_step?: number;
  even?: boolean;
  edge_mm?: number | null;
}

const NORMALS = [
  { value: "chain", label: "as the chain's" },
  { value: "closest", label: "closest" },
  { value: "kept", label: "its vertices'" },
  { value: "rule", label: "by the rule" },
  { value: "carried", label: "carried over" },
];

interface LevelMoreProps {
  index: number;
  target: LevelOwn;
  prop: PropDetail;
  onChange: (own: LevelOwn) => void;
}

/** Its own normals, weights, parts left out and switch; an empty field means as the chain has it. */
export function LevelMore({ index, target, prop, onChange }: LevelMoreProps) {
  // A level that was left out moves those below it up: what was built says which target it is.
  const level = prop.levels.find((built) => built.target === index - 1);
  const drop = target.drop ?? [];
  // What a pattern or the size leaves out is brought back there, not here.
  const parts = prop.parts.filter(({ path, ships }) => ships && (drop.includes(path) || !level?.dropped?.includes(path)));
  const number = (key: "silhouette" | "curved" | "drop_pixels" | "from_distance" | "edge_mm", label: string, unit: string, placeholder: string) => (
    <TextField
      inline
      label={label}
      unit={unit}
      placeholder={placeholder}
      value={target[key] == null ? "" : String(target[key])}
      onCommit={(text) => {
        const value = Number(text.trim().replace(",", "."));
        onChange({ [key]: text.trim() && Number.isFinite(value) && value >= 0 ? value : null });
      }}
    />
  );
  return (
    <div className="mb-2 ml-3 space-y-1 border-l-2 border-rule pl-2">
      {index > 0 && <HandMade prop={prop} index={index} name={target.hand_made ?? null} onRemove={() => onChange({ hand_made: null })} />}
      <Ticked label="Even triangles" hint="for soft and dense sources: laid anew instead of collapsed; features stay" checked={target.even ?? false} onChange={(even) => onChange(even ? { even } : { even: false, edge_mm: null })} />
      {target.even && number("edge_mm", "Edges of", "mm", "by count")}
      <div className="flex items-center justify-between gap-2">
        <span className="text-sm text-quiet">Normals</span>
        <SelectBox label={`Normals of LOD${index}`} className="w-28" value={target.normals ?? "chain"} options={NORMALS} onChange={(normals) => onChange({ normals: normals === "chain" ? null : normals })} />
      </div>
      {!target.even && number("silhouette", "Outline", "×", "chain")}
      {!target.even && number("curved", "Curves", "×", "chain")}
      {index > 0 && number("from_distance", "Drawn from", "m", level ? String(Number(level.proposed.toPrecision(3))) : "as proposed")}
      {index > 0 && <NumberField inline label="Textures halved" unit="times" value={target.texture_step ?? 0} onCommit={(step) => onChange({ texture_step: Math.min(Math.max(Math.round(step), 0), 8) })} />}
      {index > 0 && !target.even && number("drop_pixels", "No parts under", "px", "keep")}
      <TextField
        label={`Without these parts${level?.dropped?.length ? ` (${level.dropped.length} left out)` : ""}`}
        placeholder="*bolt*, strap_02"
        value={(target.drop ?? []).join(", ")}
        onCommit={(text) =>
          onChange({
            drop: text
              .split(",")
              .map((word) => word.trim())
              .filter(Boolean),
          })
        }
      />
      {parts.length > 1 && (
        <div className="max-h-32 overflow-y-auto">
          {parts.map(({ path, name }) => (
            <Ticked
              key={path}
              label={name}
              hint={path}
              checked={!drop.includes(path)}
              onChange={(stays) => onChange({ drop: stays ? drop.filter((word) => word !== path) : [...drop, path] })}
            />
          ))}
        </div>
      )}
    </div>
  );
}
