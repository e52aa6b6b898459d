import { type ReactNode, useState } from "react";

/** The evidence of the open station under the view; it folds away. */
export function EvidencePanel({ children }: { children: ReactNode }) {
  const [folded, setFolded] = useState(false);
  return (
    <section
      aria-label="Evidence"
      className={`relative shrink-0 border-t border-rule-strong bg-sheet ${folded ? "h-7" : "h-54"}`}
    >
      <button
        type="button"
        aria-expanded={!folded}
        aria-label={folded ? "Show the evidence" : "Fold the evidence"}
        onClick={() => setFolded(!folded)}
        className="absolute top-1 right-2 z-1 size-6 text-quiet hover:text-ink"
      >
        {folded ? "▴" : "▾"}
      </button>
      {!folded && children}
    </section>
  );
}
