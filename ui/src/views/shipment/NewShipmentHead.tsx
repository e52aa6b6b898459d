import { Link } from "react-router";

import type { Project } from "../../api/client";
import { Button } from "../../parts/Button";
import { CheckRow } from "../../parts/CheckRow";
import { bytes, plural } from "../../parts/format";
import { SelectBox } from "../../parts/SelectBox";
import { TextField } from "../../parts/TextField";
import { Choosing } from "./Choosing";
import { filesInWords, type NewShipment } from "./useNewShipment";

/** Where a shipment goes, how many props at once are chosen, what will be written, and the order itself. */
export function NewShipmentHead({ shipment, project }: { shipment: NewShipment; project: Project }) {
  const { destination, setDestination, going, delivers, preview, whole, ids, left, error } = shipment;
  return (
    <div className="space-y-2 border-b border-rule px-6 py-2.5">
      <div className="flex flex-wrap items-center gap-3">
        <h1 className="text-lg font-semibold">New shipment</h1>
        <span className="text-quiet">to</span>
        <SelectBox
          label="Destination"
          value={destination}
          options={project.destinations.map((d) => ({ value: d.name, label: d.title }))}
          onChange={setDestination}
        />
        <span className="ml-auto flex items-center gap-3">
          <Link to="/" className="text-quiet hover:text-ink">
            Back to the Yard
          </Link>
          <Button kind="primary" disabled={!going.length || shipment.isOrdering} onClick={() => shipment.order()}>
            {delivers ? "Ship and deliver" : "Ship"} {plural(going.length, "prop")}
          </Button>
        </span>
      </div>
      <div className="flex flex-wrap items-center gap-3">
        <Choosing all={whole} chosen={ids} onChoose={shipment.choose} />
        <span className="ml-auto flex items-center gap-3">
          <CheckRow label="Deliver into" checked={delivers} onChange={shipment.setDelivers} />
          {delivers && (
            <>
              <span className="figure text-quiet" title={preview?.root}>
                {preview?.root.split("/").at(-1)}/
              </span>
              <span className="w-44">
                <TextField bare label="Folder" value={shipment.folder} onCommit={shipment.setFolder} />
              </span>
            </>
          )}
        </span>
      </div>
      <Written shipment={shipment} />
      {error && (
        <p role="alert" className="text-stop">
          {error.message}
        </p>
      )}
      {left.length > 0 && (
        <div className="flex flex-wrap items-center gap-3 text-warning">
          <span>
            Left behind by earlier deliveries: <span className="figure">{left.join(", ")}</span>
          </span>
          <CheckRow
            label={`Remove ${plural(left.length, "file")}`}
            checked={shipment.removes}
            onChange={shipment.setRemoves}
          />
        </div>
      )}
    </div>
  );
}

/** How many files will be written, and what is not known of them yet. */
function Written({ shipment: { going, ids, delivers } }: { shipment: NewShipment }) {
  const told = filesInWords(going);
  return (
    <p className="text-sm text-quiet">
      {plural(told.files, "file")} and manifest.json will be written
      {told.known > 0 && `, ${bytes(told.bytes)}`}
      {told.known < told.files && `; ${told.files - told.known} have no size until they are built`}
      {delivers && told.changes}
      {ids.length > going.length && `; ${plural(ids.length - going.length, "prop")} held back`}
    </p>
  );
}
