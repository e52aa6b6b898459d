import { plural } from "../../parts/format";
import type { UvMarks, UvTool } from "./useUvMarks";

const TOOLS: { value: UvTool; label: string; hint: string }[] = [
  { value: "seam", label: "Seam", hint: "one edge; again takes the mark away (E)" },
  { value: "loop", label: "Seam loop", hint: "the edge loop: over quads, else along the straightest edge (O)" },
  { value: "straight", label: "Straight strip", hint: "an edge across a strip of quads that comes out straight (I)" },
];

/** The tool in hand for marking seams and strips on the model. */
export function UvMarkBar({ marks }: { marks: UvMarks }) {
  return (
    <div className="pointer-events-auto flex flex-wrap items-center gap-2">
      <div
        role="group"
        aria-label="Mark on the model"
        className="inline-flex h-7 overflow-hidden rounded border border-rule-control bg-sheet"
      >
        {TOOLS.map(({ value, label, hint }) => (
          <button
            key={value}
            type="button"
            title={hint}
            aria-pressed={marks.tool === value}
            onClick={() => marks.setTool(marks.tool === value ? null : value)}
            className={`border-r border-rule px-2.5 font-medium last:border-r-0 ${marks.tool === value ? "bg-mark text-sheet" : "hover:bg-paper"}`}
          >
            {label}
          </button>
        ))}
      </div>
    </div>
  );
}

/** What the tool in hand would take where the pointer is. */
export function UvAim({ marks }: { marks: UvMarks }) {
  if (!marks.tool) return null;
  return (
    <span
      className="figure absolute top-13 right-3 rounded border border-rule-strong bg-sheet/95 px-2 py-1"
      role="status"
    >
      {marks.aimed ? plural(marks.aimed, "edge") : "point at an edge"}
    </span>
  );
}
