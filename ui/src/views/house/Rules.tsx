import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { client, take } from "../../api/client";
import { Button } from "../../parts/Button";
import { SelectBox } from "../../parts/SelectBox";
import { TextField } from "../../parts/TextField";
import { useNotify } from "../../parts/Toasts";
import { entriesQuery, keys, type Rule, rulesQuery } from "./api";

const OF: { value: Rule["of"]; label: string }[] = [
  { value: "name", label: "name" },
  { value: "folder", label: "folder" },
];

/** Which line a new prop gets: sentences, the first that fits counts. */
export function Rules() {
  const { data: rules = [] } = useQuery(rulesQuery);
  const { data: lines = [] } = useQuery(entriesQuery("line"));
  const queries = useQueryClient();
  const notify = useNotify();
  const save = useMutation({
    mutationFn: async (next: Rule[]) => take(await client.POST("/api/line-rules", { body: { rules: next } })),
    onSuccess: (saved) => queries.setQueryData(keys.rules, saved),
    onError: (error) => notify({ title: error.message, isProblem: true }),
  });
  const bare = rules.map(({ of, pattern, line }) => ({ of, pattern, line }));
  const put = (at: number, change: Partial<Rule>) =>
    save.mutate(bare.map((rule, k) => (k === at ? { ...rule, ...change } : rule)));
  const removed = (at: number) =>
    save.mutate(
      bare.filter((_, k) => k !== at),
      {
        onSuccess: () =>
          notify({ title: `Rule ${at + 1} is gone`, action: { label: "Undo", run: () => save.mutate(bare) } }),
      },
    );
  const moved = (at: number) => {
    const next = [...bare];
    next.splice(at - 1, 0, ...next.splice(at, 1));
    save.mutate(next);
  };
  return (
    <div className="h-full overflow-auto bg-sheet px-6 py-4">
      <h1 className="text-lg font-semibold">Rules for new props</h1>
      <p className="mb-4 text-quiet">
        A source that comes to the board gets the line of the first rule that fits it; * stands for any text, ? for one
        character, case does not count. Without a rule it stands on the line "standing".
      </p>
      <ol className="space-y-2">
        {rules.map((rule, k) => (
          <li key={k} className="flex flex-wrap items-center gap-2 border-b border-rule pb-2">
            <span className="figure w-5 text-quiet">{k + 1}</span>
            <span>where the</span>
            <SelectBox
              label={`What rule ${k + 1} looks at`}
              value={rule.of}
              options={OF}
              onChange={(of) => put(k, { of })}
            />
            <span>is like</span>
            <span className="w-56">
              <TextField
                bare
                label={`Pattern of rule ${k + 1}`}
                value={rule.pattern}
                onCommit={(pattern) => put(k, { pattern })}
              />
            </span>
            <span>the line is</span>
            <SelectBox
              label={`Line of rule ${k + 1}`}
              value={rule.line}
              options={lines.map(({ name, title }) => ({ value: name, label: title }))}
              onChange={(line) => put(k, { line })}
            />
            <Button kind="quiet" disabled={k === 0} aria-label={`Rule ${k + 1} earlier`} onClick={() => moved(k)}>
              ↑
            </Button>
            <Button kind="quiet" aria-label={`Remove rule ${k + 1}`} onClick={() => removed(k)}>
              ✕
            </Button>
            <span className="text-sm text-quiet">
              {rule.of === "folder"
                ? "folders are known when a source comes"
                : rule.fits.length
                  ? `fits ${rule.fits.slice(0, 5).join(", ")}${rule.fits.length > 5 ? ` and ${rule.fits.length - 5} more` : ""} of the board`
                  : "fits none of the board"}
            </span>
          </li>
        ))}
      </ol>
      <Button
        className="mt-3"
        onClick={() => save.mutate([...bare, { of: "name", pattern: "door_*", line: lines[0]?.name ?? "standing" }])}
      >
        Add a rule
      </Button>
    </div>
  );
}
