import { Segmented } from "../../parts/Segmented";
import { SelectBox } from "../../parts/SelectBox";
import { NumberField } from "../../parts/TextField";
import { AimText, MarkTools, type MarkTool } from "../markTools";
import type { Act, Scope, Tool } from "./aims";
import type { Marking } from "./useMarking";

const TOOLS: MarkTool<Tool>[] = [
  { value: "edge", label: "Edge", hint: "one edge (E)" },
  { value: "loop", label: "Loop", hint: "the edge loop: over quads, else along the straightest edge (O)" },
  { value: "border", label: "Patch border", hint: "the border of a patch (B)" },
  { value: "patch", label: "Patch", hint: "a whole patch, smooth or flat (A)" },
  { value: "flip", label: "Flip", hint: "faces whose winding is wrong (U)" },
];
const ACTS: { value: Act; label: string; hint: string }[] = [
  { value: "hard", label: "Hard", hint: "(H)" },
  { value: "soft", label: "Soft", hint: "(J)" },
  { value: "clear", label: "Clear", hint: "clear the mark (K)" },
];
const PATCH_ACTS: { value: Act; label: string }[] = [
  { value: "soft", label: "Smooth" },
  { value: "hard", label: "Flat" },
  { value: "clear", label: "Clear" },
];
const GROWS = [
  { value: "angle", label: "over small folds" },
  { value: "material", label: "within the material" },
  { value: "part", label: "within the part" },
  { value: "shell", label: "over the whole shell" },
] as const;
const SCOPES: { value: Scope; label: string }[] = [
  { value: "face", label: "Face" },
  { value: "patch", label: "Patch" },
  { value: "shell", label: "Shell" },
];

/** What the tool in hand would take where the pointer is. */
export function AimRead({ marking }: { marking: Marking }) {
  return marking.tool ? <AimText text={marking.aim?.text || "point at the model"} /> : null;
}

/** The tool in hand for marking on the model, and what it takes. */
export function MarkBar({ marking }: { marking: Marking }) {
  const { tool, setTool, act, setAct, grow, setGrow, growAngle, setGrowAngle, scope, setScope } = marking;
  const grows = tool === "border" || tool === "patch" || (tool === "flip" && scope === "patch");
  return (
    <div className="pointer-events-auto flex flex-wrap items-center gap-2">
      <MarkTools tools={TOOLS} tool={tool} onTake={setTool} />
      {tool && tool !== "flip" && (
        <Segmented label="Mark as" value={act} options={tool === "patch" ? PATCH_ACTS : ACTS} onChange={setAct} />
      )}
      {tool === "flip" && <Segmented label="Flip" value={scope} options={SCOPES} onChange={setScope} />}
      {(tool === "border" || tool === "patch") && (
        <SelectBox label="A patch grows" value={grow} options={[...GROWS]} onChange={setGrow} />
      )}
      {grows && (tool === "flip" || grow === "angle") && (
        <span className="w-34 rounded border border-rule-control bg-sheet px-2">
          <NumberField
            label="up to"
            unit="°"
            inline
            value={growAngle}
            limits={{ low: 0, high: 180 }}
            onCommit={setGrowAngle}
          />
        </span>
      )}
    </div>
  );
}
