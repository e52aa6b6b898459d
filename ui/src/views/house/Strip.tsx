import { useEffect, useState } from "react";

import { count, plural } from "../../parts/format";
import { RangeSlider } from "../../parts/RangeSlider";

interface StripProps {
  label: string;
  /** What each prop has, with its name. */
  values: { name: string; value: number }[];
  limit: number | null;
  unit: string;
  whole?: boolean;
  onLimit: (limit: number) => void;
}

const [WIDTH, HEIGHT] = [260, 26];

/** Where the props lie beside a limit, which is a handle in the picture; logarithmic. */
export function Strip({ label, values, limit, unit, whole = true, onLimit }: StripProps) {
  const [held, setHeld] = useState(limit);
  useEffect(() => setHeld(limit), [limit]);
  const largest = Math.max(...values.map(({ value }) => value), 1);
  const [low, high] = [0, Math.log10(largest * 4)];
  const at = (value: number) => (WIDTH * Math.min(Math.log10(Math.max(value, 1)), high)) / (high || 1);
  const over = held === null ? [] : values.filter(({ value }) => value > held);
  const read = (power: number) => {
    const value = 10 ** power;
    return whole ? Math.round(Number(value.toPrecision(2))) : Number(value.toPrecision(2));
  };
  return (
    <div className="max-w-[260px]">
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" role="img" aria-label={`${label} of the props`}>
        <line x1={0} x2={WIDTH} y1={HEIGHT - 4} y2={HEIGHT - 4} stroke="var(--rule-strong)" />
        {held !== null && <rect x={at(held)} width={WIDTH} height={HEIGHT - 4} fill="var(--stop)" opacity={0.08} />}
        {values.map(({ name, value }) => (
          <circle
            key={name}
            cx={at(value)}
            cy={HEIGHT - 9}
            r={3.5}
            fill={held !== null && value > held ? "var(--stop)" : "var(--lod-5)"}
            opacity={0.75}
          >
            <title>{`${name}: ${count(value)} ${unit}`}</title>
          </circle>
        ))}
      </svg>
      <RangeSlider
        label={`${label}, among the props`}
        value={Math.min(Math.log10(Math.max(held ?? largest * 4, 1)), high)}
        min={low}
        max={high}
        step={0.01}
        onChange={(power) => setHeld(read(power))}
        onCommit={(power) => onLimit(read(power))}
      />
      <p className="text-sm text-quiet">
        {over.length ? (
          <span className="text-stop" title={over.map(({ name }) => name).join(", ")}>
            {over.length} of {plural(values.length, "prop")} over it
          </span>
        ) : (
          `${plural(values.length, "prop")}, the largest ${largest >= 100 ? count(largest) : Number(largest.toPrecision(3))} ${unit}`
        )}
      </p>
    </div>
  );
}
