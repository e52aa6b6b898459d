import { count } from "../../parts/format";

interface SoundingProps {
  value: number | null;
  budget: number | null;
}

/** A figure against its budget, with the share as a sounding line below it. */
export function Sounding({ value, budget }: SoundingProps) {
  if (value === null) return <span className="text-quiet">–</span>;
  const over = budget !== null && value > budget;
  const share = budget ? Math.min(value / budget, 1) : 0;
  return (
    <div className="w-full max-w-35">
      <div className="figure flex justify-between gap-2">
        <span className={over ? "font-semibold text-warning" : ""}>{count(value)}</span>
        {budget !== null && <span className="text-quiet">/ {count(budget)}</span>}
      </div>
      {budget !== null && (
        <div className="relative mt-0.5 h-[5px] border-b border-rule-strong" aria-hidden>
          <div
            className={`absolute bottom-0 left-0 h-[3px] ${over ? "bg-warning" : "bg-[var(--lod-4)]"}`}
            style={{ width: `${share * 100}%` }}
          />
          {over && <div className="absolute right-0 -bottom-[3px] text-sm leading-none text-warning">▸</div>}
        </div>
      )}
    </div>
  );
}
