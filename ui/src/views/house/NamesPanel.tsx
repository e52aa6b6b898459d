import type { Draft } from "./api";
import { count } from "../../parts/format";
import { SeverityShape } from "../../parts/Severity";

/** Every name under the draft, of all props; clashes first, and the files that earlier shipments leave behind. */
export function NamesPanel({ draft }: { draft: Draft | undefined }) {
  const props = draft?.props ?? [];
  if (!props.length) return <p className="p-3 text-quiet">No prop of the board is concerned.</p>;
  const clashing = new Set(props.filter(({ clash }) => clash).map(({ id }) => id));
  const left = props.filter((prop) => prop.left.length > 0);
  const rows = [...props].sort((a, b) => Number(clashing.has(b.id)) - Number(clashing.has(a.id)));
  return (
    <div className="p-3">
      <p className="mb-2 text-quiet">
        {count(props.length)} {props.length === 1 ? "prop" : "props"}
        {clashing.size > 0 && (
          <span className="text-stop">, {clashing.size} of them would write the same files and are held</span>
        )}
        {left.length > 0 && (
          <span className="text-warning">
            , {left.length} {left.length === 1 ? "leaves" : "leave"} files of the last shipment behind
          </span>
        )}
        .
      </p>
      <ul className="space-y-1.5">
        {rows.map((prop) => (
          <li key={prop.id} className="border-b border-rule pb-1.5">
            <div className="figure truncate text-sm" title={prop.files.join(", ")}>
              {prop.files.slice(0, 3).join(", ")}
              {prop.files.length > 3 && ` and ${prop.files.length - 3} more`}
            </div>
            <div className="figure truncate text-sm text-quiet" title={prop.nodes.join(", ")}>
              {prop.nodes.join(", ") || prop.name}
            </div>
            {prop.clash && (
              <div className="flex items-center gap-1.5 text-sm text-stop">
                <SeverityShape severity="stop" />
                {prop.clash}
              </div>
            )}
            {prop.left.length > 0 && (
              <div className="flex items-center gap-1.5 text-sm text-warning">
                <SeverityShape severity="warning" />
                leaves {prop.left.join(", ")} behind
              </div>
            )}
          </li>
        ))}
      </ul>
    </div>
  );
}
