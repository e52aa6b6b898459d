import type { ReactNode } from "react";

import type { Fault } from "./api";
import { SchemaField } from "./SchemaField";
import { type FieldSpec, shown } from "./schema";

interface SettingRowProps {
  spec: FieldSpec;
  value: unknown;
  /** As it was saved last, where that is something else. */
  before?: { value: unknown } | undefined;
  fault?: Fault | undefined;
  /** What the setting does to the props. */
  effect: ReactNode;
  onChange: (value: unknown) => void;
}

/** One setting as a line of a page: in the margin what it was, then what it means, then its control and what it does. */
export function SettingRow({ spec, value, before, fault, effect, onChange }: SettingRowProps) {
  return (
    <div className="grid grid-cols-[5rem_minmax(0,1fr)_16.25rem] items-start gap-3 border-b border-rule py-1.5">
      <div className="pt-1 text-right text-sm">
        {before && (
          <button
            type="button"
            className="max-w-full border-r-2 border-mark pr-2 text-right break-words text-quiet hover:text-ink"
            title="put it back"
            onClick={() => onChange(before.value)}
          >
            was {brief(shown(before.value))}
          </button>
        )}
      </div>
      <div className="pt-0.5">
        <div className="font-medium">{spec.label}</div>
        <div className="text-sm text-quiet">
          {spec.meaning}
          {spec.initial !== undefined && <span className="figure"> · default {brief(shown(spec.initial))}</span>}
        </div>
        {fault && <FaultNote fault={fault} value={value} />}
      </div>
      <div className="min-w-0 space-y-1 pt-0.5">
        <SchemaField spec={spec} value={value} onChange={onChange} />
        {effect}
      </div>
    </div>
  );
}

const LONGEST = 60;
const brief = (text: string) => (text.length > LONGEST ? `${text.slice(0, LONGEST)} …` : text);

/** What is wrong, and in a template at which place. */
function FaultNote({ fault, value }: { fault: Fault; value: unknown }) {
  const place = fault.place ?? null;
  return (
    <div role="alert" className="text-stop">
      {place !== null && typeof value === "string" && (
        <div className="figure whitespace-pre">
          {value.slice(0, place)}
          <mark className="bg-stop text-sheet">{value.slice(place, place + 1) || " "}</mark>
          {value.slice(place + 1)}
        </div>
      )}
      {fault.message}
    </div>
  );
}
