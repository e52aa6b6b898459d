import type { PropDetail } from "../../../api/client";
import { Button } from "../../../parts/Button";
import { count } from "../../../parts/format";
import { TextField } from "../../../parts/TextField";
import type { Decide } from "../useDecisions";

interface State {
  name: string;
  parts: string[];
  keeps: string[];
  levels: { ratio?: number }[] | null;
}

const words = (text: string) => text.split(",").map((word) => word.trim()).filter(Boolean);

/** Variants of the prop, as damaged: each ships as a file of its own, with the base state's levels where it has none. */
export function StatesSettings({ prop, decide }: { prop: PropDetail; decide: Decide }) {
  const states = (prop.settings.levels?.states as State[] | undefined) ?? [];
  const set = (next: State[]) => decide("levels", { states: next });
  const change = (at: number, changes: Partial<State>) => set(states.map((state, i) => (i === at ? { ...state, ...changes } : state)));
  const fresh = ["damaged", "burnt", "open", "state"].find((name) => !states.some((state) => state.name === name)) ?? `state_${states.length}`;
  return (
    <div className="space-y-1.5 border-t border-rule pt-2">
      <div className="text-sm text-quiet">States besides the base</div>
      {states.map((state, i) => {
        const made = prop.states.find(({ name }) => name === state.name);
        return (
          <div key={i} className="space-y-1 border-l-2 border-rule pl-2">
            <div className="flex items-end gap-1">
              <div className="grow">
                <TextField label="Name" value={state.name} onCommit={(name) => name.trim() && change(i, { name: name.trim() })} />
              </div>
              <button type="button" aria-label={`Remove the state ${state.name}`} className="size-7 shrink-0 text-quiet hover:text-ink" onClick={() => set(states.filter((_, k) => k !== i))}>
                ✕
              </button>
            </div>
            <TextField label="Its own parts" placeholder="*_damaged" value={state.parts.join(", ")} onCommit={(text) => words(text).length && change(i, { parts: words(text) })} />
            <TextField label="Shared with the base" placeholder="none" value={(state.keeps ?? []).join(", ")} onCommit={(text) => change(i, { keeps: words(text) })} />
            <TextField
              label="Its levels, percent of its triangles"
              placeholder="none, the base's"
              value={(state.levels ?? []).map(({ ratio }) => Number((100 * (ratio ?? 0)).toPrecision(4))).join(", ")}
              onCommit={(text) => {
                const ratios = words(text)
                  .map((word) => Number(word.replace("%", "")) / 100)
                  .filter((ratio) => ratio > 0 && ratio < 1)
                  .sort((one, two) => two - one);
                change(i, { levels: ratios.length ? ratios.map((ratio) => ({ ratio })) : null });
              }}
            />
            {made && (
              <p className="figure text-sm" title={made.levels.map(({ name, triangles }) => `${name} ${count(triangles)} △`).join("\n")}>
                {made.levels.map(({ triangles }) => count(triangles)).join(" → ")} △
                {made.fallen_back > 0 && <span className="text-quiet"> · the last {made.fallen_back} of the base</span>}
              </p>
            )}
          </div>
        );
      })}
      <Button kind="quiet" className="!px-0" disabled={states.length >= 8} onClick={() => set([...states, { name: fresh, parts: [`*_${fresh}`], keeps: [], levels: null }])}>
        + Add a state
      </Button>
    </div>
  );
}
