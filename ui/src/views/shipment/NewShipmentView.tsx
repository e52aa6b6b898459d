import { Checkbox } from "../../parts/Checkbox";
import { EmptyState, Loading } from "../../parts/Notes";
import { NewShipmentHead } from "./NewShipmentHead";
import { PreviewRow } from "./PreviewRow";
import { useNewShipment } from "./useNewShipment";

/** Before a shipment: which props, where to, and the very files that will be written. */
export default function NewShipmentView() {
  const shipment = useNewShipment();
  const { project, props, ids, rows, whole } = shipment;
  if (!props || !project) return <Loading what="the props" />;
  if (!props.length) return <EmptyState title="Nothing to ship">Add props in the Yard first.</EmptyState>;
  const chosen = new Set(ids);
  const isAll = ids.length === props.length;
  return (
    <div className="flex h-full flex-col bg-sheet">
      <NewShipmentHead shipment={shipment} project={project} />
      <div className="min-h-0 grow overflow-auto px-6 py-2">
        <table className="w-full">
          <thead className="text-left text-sm text-quiet">
            <tr className="border-b border-rule-strong">
              <th className="w-9 py-1.5 pr-3">
                <Checkbox
                  label="Choose all props"
                  checked={isAll || (ids.length ? "indeterminate" : false)}
                  onChange={() => shipment.choose(isAll ? [] : props.map((prop) => prop.id))}
                />
              </th>
              {["prop", "since shipped", "readiness", "files", "mesh nodes", "note"].map((head) => (
                <th key={head} className="py-1.5 pr-4 font-normal">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {props.map((prop) => (
              <PreviewRow
                key={prop.id}
                prop={prop}
                isChosen={chosen.has(prop.id)}
                row={chosen.has(prop.id) ? rows.get(prop.id) : undefined}
                since={whole?.rows.find((row) => row.prop === prop.id)?.since}
                onToggle={() => shipment.toggle(prop.id)}
              />
            ))}
          </tbody>
        </table>
      </div>
    </div>
  );
}
