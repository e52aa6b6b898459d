import type { PropDetail } from "../../api/client";
import { Button } from "../../parts/Button";
import { count } from "../../parts/format";
import { TextField } from "../../parts/TextField";
import type { Decide, Settings } from "../bench";
import { target } from "./targets";

type State = Settings["levels"]["states"][number];

const words = (text: string) =>
  text
    .split(",")
    .map((word) => word.trim())
    .filter(Boolean);

/** Variants of the prop, as damaged: each ships as a file of its own, with the base state's levels where it has none. */
export function StatesSettings({ prop, decide }: { prop: PropDetail; decide: Decide }) {
  const { states } = prop.settings.levels;
  const set = (next: State[]) => decide("levels", { states: next });
  const change = (at: number, changes: Partial<State>) =>
    set(states.map((state, i) => (i === at ? { ...state, ...changes } : state)));
  const fresh =
    ["damaged", "burnt", "open", "state"].find((name) => !states.some((state) => state.name === name)) ??
    `state_${states.length}`;
  return (
    <div className="space-y-1.5 border-t border-rule pt-2">
      <div className="text-sm text-quiet">States besides the base</div>
      {states.map((state, i) => {
        const made = prop.states.find(({ name }) => name === state.name);
        return (
          <div key={i} className="space-y-1 border-l-2 border-rule pl-2">
            <div className="flex items-end gap-1">
              <div className="grow">
                <TextField
                  label="Name"
                  value={state.name}
                  onCommit={(name) => name.trim() !== "" && change(i, { name: name.trim() })}
                />
              </div>
              <button
                type="button"
                aria-label={`Remove the state ${state.name}`}
                className="size-7 shrink-0 text-quiet hover:text-ink"
                onClick={() => set(states.filter((_, k) => k !== i))}
              >
                ✕
              </button>
            </div>
            <TextField
              label="Its own parts"
              placeholder="*_damaged"
              value={state.parts.join(", ")}
              onCommit={(text) => words(text).length > 0 && change(i, { parts: words(text) })}
            />
            <TextField
              label="Shared with the base"
              placeholder="none"
              value={state.shared_parts.join(", ")}
              onCommit={(text) => change(i, { shared_parts: words(text) })}
            />
            <TextField
              label="Its levels, percent of its triangles"
              placeholder="none, the base's"
              value={(state.levels ?? []).map(({ ratio }) => Number((100 * (ratio ?? 0)).toPrecision(4))).join(", ")}
              onCommit={(text) => {
                const ratios = words(text)
                  .map((word) => Number(word.replace("%", "")) / 100)
                  .filter((ratio) => ratio > 0 && ratio < 1)
                  .sort((one, two) => two - one);
                change(i, { levels: ratios.length ? ratios.map((ratio) => target({ ratio })) : null });
              }}
            />
            {made && (
              <p
                className="figure text-sm"
                title={made.levels.map(({ name, triangles }) => `${name} ${count(triangles)} tris`).join("\n")}
              >
                {made.levels.map(({ triangles }) => count(triangles)).join(" → ")} tris
                {made.fallen_back > 0 && <span className="text-quiet"> · last {made.fallen_back} from the base</span>}
              </p>
            )}
          </div>
        );
      })}
      <Button
        kind="quiet"
        className="!px-0"
        disabled={states.length >= 8}
        onClick={() => set([...states, { name: fresh, parts: [`*_${fresh}`], shared_parts: [], levels: null }])}
      >
        + Add a state
      </Button>
    </div>
  );
}
