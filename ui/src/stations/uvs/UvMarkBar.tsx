import { plural } from "../../parts/format";
import { AimText, MarkTools, type MarkTool } from "../markTools";
import type { UvMarks, UvTool } from "./useUvMarks";

const TOOLS: MarkTool<UvTool>[] = [
  { value: "seam", label: "Seam", hint: "one edge; again takes the mark away (E)" },
  { value: "loop", label: "Seam loop", hint: "the edge loop: over quads, else along the straightest edge (O)" },
  { value: "straight", label: "Straight strip", hint: "an edge across a strip of quads that comes out straight (I)" },
];

/** The tool in hand for marking seams and strips on the model. */
export function UvMarkBar({ marks }: { marks: UvMarks }) {
  return (
    <div className="pointer-events-auto">
      <MarkTools tools={TOOLS} tool={marks.tool} onTake={marks.setTool} />
    </div>
  );
}

/** What the tool in hand would take where the pointer is. */
export function UvAim({ marks }: { marks: UvMarks }) {
  return marks.tool ? <AimText text={marks.aimed ? plural(marks.aimed, "edge") : "point at an edge"} /> : null;
}
