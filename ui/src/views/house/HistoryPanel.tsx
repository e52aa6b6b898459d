import { Button } from "../../parts/Button";
import type { Entry } from "./api";
import { Differences } from "./Differences";

interface HistoryPanelProps {
  entry: Entry;
  onRestore: (number: number) => void;
}

/** Every version: who saved it, when, and what it changed; back to any of them. */
export function HistoryPanel({ entry, onRestore }: HistoryPanelProps) {
  return (
    <ol className="space-y-3 p-3">
      {entry.versions.map(({ number, by, created, changes }) => (
        <li key={number} className="border-b border-rule pb-2">
          <div className="flex items-baseline justify-between gap-2">
            <span className="font-medium">{number === 0 ? "As it came with Plindro" : `Version ${number}`}</span>
            {number !== entry.number && <Button onClick={() => onRestore(number)}>Back to this</Button>}
          </div>
          {created && (
            <p className="text-sm text-quiet">
              {new Date(created).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}
              {by && ` by ${by}`}
            </p>
          )}
          <Differences changes={changes} />
        </li>
      ))}
    </ol>
  );
}
