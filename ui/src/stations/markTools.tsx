/** A tool for marking on the model; its key stands in the hint. */
export interface MarkTool<T extends string> {
  value: T;
  label: string;
  hint: string;
}

interface MarkToolsProps<T extends string> {
  tools: MarkTool<T>[];
  /** The one in hand. */
  tool: T | null;
  onTake: (tool: T | null) => void;
}

/** Tools for marking on the model; the one in hand is put away by taking it again. */
export function MarkTools<T extends string>({ tools, tool, onTake }: MarkToolsProps<T>) {
  return (
    <div
      role="group"
      aria-label="Mark on the model"
      className="inline-flex h-7 overflow-hidden rounded border border-rule-control bg-sheet"
    >
      {tools.map(({ value, label, hint }) => (
        <button
          key={value}
          type="button"
          title={hint}
          aria-pressed={tool === value}
          onClick={() => onTake(tool === value ? null : value)}
          className={`border-r border-rule px-2.5 font-medium last:border-r-0 ${tool === value ? "bg-mark text-sheet" : "hover:bg-paper"}`}
        >
          {label}
        </button>
      ))}
    </div>
  );
}

/** What the tool in hand would take where the pointer is. */
export function AimText({ text }: { text: string }) {
  return (
    <span
      className="figure absolute top-13 right-3 rounded border border-rule-strong bg-sheet/95 px-2 py-1"
      role="status"
    >
      {text}
    </span>
  );
}
