import { useEffect, useRef, useState } from "react";

interface FigureProps {
  label: string;
  value: number;
  onCommit: (value: number) => void;
  /** Called with every sound number while it is typed. */
  onDraft?: (value: number) => void;
}

const parsed = (text: string) => Number(text.replace(",", "."));

/** A small field for a number above zero; Escape and what is no number put it back. */
export function Figure({ label, value, onCommit, onDraft }: FigureProps) {
  const shown = String(Number(value.toPrecision(6)));
  const [draft, setDraft] = useState(shown);
  useEffect(() => setDraft(shown), [shown]);
  const isPutBack = useRef(false);
  const commit = () => {
    if (isPutBack.current) {
      isPutBack.current = false;
      return setDraft(shown);
    }
    const next = parsed(draft);
    if (Number.isFinite(next) && next > 0) {
      if (next !== Number(shown)) onCommit(next);
    } else setDraft(shown);
  };
  return (
    <input
      aria-label={label}
      inputMode="decimal"
      value={draft}
      onChange={(event) => {
        setDraft(event.target.value);
        const next = parsed(event.target.value);
        if (onDraft && Number.isFinite(next) && next > 0) onDraft(next);
      }}
      onBlur={commit}
      // Leaving the field commits it, and gives the keys back to the Bench.
      onKeyDown={(event) => {
        isPutBack.current = event.key === "Escape";
        if (event.key === "Enter" || event.key === "Escape") event.currentTarget.blur();
      }}
      className="figure h-6 w-13 rounded border border-rule-control bg-sheet px-1 text-right text-ink"
    />
  );
}
