import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { client, type Shipment, take } from "../../api/client";
import { deliveryQuery, keys } from "../../api/queries";
import { Button } from "../../parts/Button";
import { CheckRow } from "../../parts/CheckRow";
import { bytes, inOneUnit, plural } from "../../parts/format";
import { SeverityShape } from "../../parts/Severity";
import { TextField } from "../../parts/TextField";
import { useNotify } from "../../parts/Toasts";
import { CHANGES, useFolder } from "./folder";

/** A shipment into a folder on the server: what would be written, replaced, left alone or left behind, and doing it. */
export function Delivery({ shipment }: { shipment: Shipment }) {
  const [folder, setFolder] = useFolder();
  const [removes, setRemoves] = useState(false);
  const queries = useQueryClient();
  const notify = useNotify();
  const state = shipment.delivery;
  const { data: plan, error } = useQuery(deliveryQuery(shipment.id, folder, state?.state ?? ""));
  const deliver = useMutation({
    mutationFn: async () =>
      take(
        await client.POST("/api/shipments/{shipment_id}/deliver", {
          params: { path: { shipment_id: shipment.id } },
          body: { folder, removes },
        }),
      ),
    onSuccess: () => {
      setRemoves(false);
      void queries.invalidateQueries({ queryKey: keys.shipments });
    },
    onError: (problem) => notify({ title: problem.message, isProblem: true }),
  });
  const rollBack = useMutation({
    mutationFn: async () =>
      take(
        await client.POST("/api/shipments/{shipment_id}/roll-back", { params: { path: { shipment_id: shipment.id } } }),
      ),
    onSuccess: (back) => {
      void queries.invalidateQueries({ queryKey: keys.shipments });
      notify({ title: `${back.delivery?.folder ?? ""} goes back to shipment ${back.id}` });
    },
    onError: (problem) => notify({ title: problem.message, isProblem: true }),
  });
  const writes = plan?.files.filter(({ change }) => change === "made" || change === "replaced") ?? [];
  const told = plan?.files.filter(({ change }) => change !== "same") ?? [];
  const same = (plan?.files.length ?? 0) - told.length;
  const goes = plan ? plan.left.filter((path) => !plan.changed.includes(path)) : [];
  const isRunning = state?.state === "running" || state?.state === "waiting";
  return (
    <section aria-label="Deliver" className="border-b border-rule px-6 py-2.5">
      <div className="flex flex-wrap items-center gap-3">
        <h2 className="font-semibold">Deliver into</h2>
        <span className="figure text-quiet" title={plan?.root}>
          {plan?.root.split("/").at(-1)}/
        </span>
        <span className="w-52">
          <TextField
            bare
            label="Folder"
            value={folder}
            onCommit={(next) => {
              // What is left behind elsewhere was not agreed to go.
              setRemoves(false);
              setFolder(next);
            }}
          />
        </span>
        <span className="text-quiet">
          {plan &&
            `${plural(writes.length, "file")} to write, ${bytes(writes.reduce((sum, file) => sum + file.bytes, 0))}` +
              (same ? `; ${same} the same already` : "")}
        </span>
        <span className="ml-auto flex gap-2">
          {shipment.goes_back_to !== null && (
            <Button
              disabled={isRunning || rollBack.isPending}
              title="brings the folder back to the shipment that was delivered into it before this one"
              onClick={() => rollBack.mutate()}
            >
              Roll back to no. <span className="figure">{shipment.goes_back_to}</span>
            </Button>
          )}
          <Button
            kind="mark"
            disabled={!plan || isRunning || deliver.isPending || (!writes.length && !(removes && goes.length))}
            onClick={() => deliver.mutate()}
          >
            {isRunning ? "delivering …" : `Deliver ${plural(writes.length, "file")}`}
          </Button>
        </span>
      </div>
      {error && (
        <p role="alert" className="mt-1 text-stop">
          {error.message}
        </p>
      )}
      {state?.state === "failed" && (
        <p role="alert" className="mt-1 text-stop">
          The last delivery stopped: {state.error}
        </p>
      )}
      {state?.state === "done" && (
        <p className="mt-1 text-quiet">
          {state.rolls_back ? "Rolled back in" : "Delivered into"} {state.folder}: {state.made} new, {state.replaced}{" "}
          replaced, {state.same} left alone{state.removed > 0 && `, ${state.removed} removed`}.
        </p>
      )}
      {told.length > 0 && (
        <ul className="mt-1 max-h-32 overflow-auto text-sm">
          {told.map((file) => (
            <li key={file.path} className="flex items-baseline gap-2">
              <SeverityShape severity={file.change === "foreign" ? "warning" : "fine"} />
              <span className="figure w-72 truncate" title={file.path}>
                {file.path}
              </span>
              <span className={file.change === "foreign" ? "text-warning" : "text-quiet"}>{CHANGES[file.change]}</span>
              <span className="figure text-quiet">
                {file.change === "replaced" ? inOneUnit(file.bytes_before, file.bytes) : bytes(file.bytes)}
              </span>
            </li>
          ))}
        </ul>
      )}
      {plan && plan.left.length > 0 && (
        <div className="mt-1 text-warning">
          Left behind by earlier deliveries: <span className="figure">{plan.left.join(", ")}</span>
          {plan.changed.length > 0 && ` (${plan.changed.join(", ")} changed since, which stay)`}
          {goes.length > 0 && (
            <CheckRow
              label={`Remove ${plural(goes.length, "file")} with this delivery`}
              checked={removes}
              onChange={setRemoves}
            />
          )}
        </div>
      )}
    </section>
  );
}
