import type { Difference } from "./api";
import { labelOf, shown } from "./schema";

/** What differs, a line a setting: before and after. */
export function Differences({ changes }: { changes: Difference[] }) {
  return (
    <dl className="space-y-0.5 text-sm">
      {changes.map(({ field, before, after }) => (
        <div key={field}>
          <dt className="inline text-quiet">{whole(field)}: </dt>
          <dd className="figure inline break-words">
            <del className="text-quiet">{shown(before)}</del> → {shown(after)}
          </dd>
        </div>
      ))}
    </dl>
  );
}

/** "levels.hard_angle" → "Levels, hard angle". */
export function whole(field: string): string {
  const [station, ...rest] = field.split(".");
  if (!rest.length) return labelOf(field);
  const inner = labelOf(rest.join("."));
  return `${labelOf(station ?? "")}, ${inner.charAt(0).toLowerCase()}${inner.slice(1)}`;
}
