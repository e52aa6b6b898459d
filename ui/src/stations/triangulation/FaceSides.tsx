import type { PropDetail } from "../../api/client";
import { count } from "../../parts/format";
import { Heading } from "../../parts/Heading";

/** Faces by number of sides, on a log scale so that the rare ones are seen. */
export function FaceSides({ prop }: { prop: PropDetail }) {
  const sides = Object.entries(prop.facts.triangulation?.sides ?? prop.facts.source?.sides ?? {}).map(
    ([k, n]) => [Number(k), n] as const,
  );
  const largest = Math.max(...sides.map(([, n]) => n), 1);
  const overruled = prop.facts.triangulation?.overruled_quads ?? 0;
  return (
    <div className="flex h-full flex-col">
      <Heading
        question="What is there to cut?"
        reading={`Faces by number of sides, as the source has them. ${overruled ? `${count(overruled)} concave quads took their other diagonal.` : "No quad had to be cut against the rule."}`}
      />
      <div className="flex min-h-0 grow items-end gap-1.5 overflow-x-auto px-4 pb-3">
        {sides.map(([side, number]) => (
          <div key={side} className="flex h-full max-w-14 min-w-9 flex-1 flex-col justify-end text-center">
            <span className="figure text-sm">{count(number)}</span>
            <div
              className={side === 3 ? "bg-[var(--lod-2)]" : side === 4 ? "bg-[var(--lod-4)]" : "bg-[var(--lod-6)]"}
              style={{ height: `${8 + (62 * Math.log(number + 1)) / Math.log(largest + 1)}%` }}
            />
            <span className="figure border-t border-rule-strong text-sm whitespace-nowrap text-quiet">
              {side}
              {sides.length <= 5 && " sides"}
            </span>
          </div>
        ))}
        {!sides.length && <p className="self-center text-quiet">there are no faces</p>}
      </div>
    </div>
  );
}
