import { count } from "../../parts/format";
import { CheckRow } from "../../parts/CheckRow";
import { NumberField } from "../../parts/TextField";
import type { UvMarks } from "./useUvMarks";

interface IslandBarProps {
  island: number;
  of: number;
  marks: UvMarks;
  /** Whether islands can stay where they are. */
  canLock: boolean;
}

/** What is asked of the island in hand. */
export function IslandBar({ island, of, marks, canLock }: IslandBarProps) {
  const asked = marks.island(island);
  return (
    <div
      role="group"
      aria-label="The island in hand"
      className="flex flex-wrap items-center gap-x-4 gap-y-1 rounded border border-rule-strong bg-sheet/95 px-2 py-1 text-sm"
    >
      <span className="figure">
        island {count(island + 1)} of {count(of)}
      </span>
      <NumberField
        label="Density"
        unit="×"
        inline
        value={asked.weight}
        limits={{ low: 0.05, high: 20 }}
        onCommit={asked.setWeight}
      />
      {canLock && <CheckRow label="Stays where it is" checked={asked.isLocked} onChange={asked.setLocked} />}
    </div>
  );
}
