import { useEffect, useState } from "react";

interface JsonFieldProps {
  label: string;
  value: unknown;
  onCommit: (value: unknown) => void;
}

/** A setting that is a table of its own, as JSON; what is none is said and not taken. */
export function JsonField({ label, value, onCommit }: JsonFieldProps) {
  const text = JSON.stringify(value ?? null, null, 1);
  const [draft, setDraft] = useState(text);
  const [problem, setProblem] = useState("");
  useEffect(() => setDraft(text), [text]);
  const commit = () => {
    setProblem("");
    if (draft === text) return;
    try {
      onCommit(JSON.parse(draft));
    } catch (error) {
      setProblem(`this is no JSON: ${(error as Error).message}`);
    }
  };
  return (
    <div>
      <textarea
        aria-label={label}
        value={draft}
        rows={Math.min(8, draft.split("\n").length)}
        spellCheck={false}
        onChange={(event) => setDraft(event.target.value)}
        onBlur={commit}
        className="figure w-full rounded border border-rule-control bg-sheet px-2 py-1 text-sm"
      />
      {problem && (
        <p role="alert" className="text-sm text-stop">
          {problem}
        </p>
      )}
    </div>
  );
}
