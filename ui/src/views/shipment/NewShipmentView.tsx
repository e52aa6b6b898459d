import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";

import { client, take } from "../../api/client";
import { keys, previewQuery, projectQuery, propsQuery } from "../../api/queries";
import { Button } from "../../parts/Button";
import { CheckRow } from "../../parts/CheckRow";
import { Checkbox } from "../../parts/Checkbox";
import { bytes, plural } from "../../parts/format";
import { EmptyState, Loading } from "../../parts/Notes";
import { SelectBox } from "../../parts/SelectBox";
import { TextField } from "../../parts/TextField";
import { useNotify } from "../../parts/Toasts";
import { Choosing } from "./Choosing";
import { useFolder } from "./folder";
import { PreviewRow } from "./PreviewRow";

/** Before a shipment: which props, where to, and the very files that will be written. */
export default function NewShipmentView() {
  const [parameters] = useSearchParams();
  const [chosen, setChosen] = useState(
    () => new Set((parameters.get("ids") ?? "").split(",").filter(Boolean).map(Number)),
  );
  const [destination, setDestination] = useState("plain");
  const [folder, setFolder] = useFolder();
  const [delivers, setDelivers] = useState(false);
  const [removes, setRemoves] = useState(false);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const notify = useNotify();
  const { data: project } = useQuery(projectQuery);
  const { data: props } = useQuery(propsQuery);
  // What is gone from the board since it was chosen, or since a selection was saved, does not ship.
  const ids = useMemo(
    () => (props ?? []).flatMap(({ id }) => (chosen.has(id) ? [id] : [])).sort((a, b) => a - b),
    [chosen, props],
  );
  const all = useMemo(() => (props ?? []).map(({ id }) => id).sort((a, b) => a - b), [props]);
  const into = delivers ? folder : "";
  const { data: whole } = useQuery(previewQuery(all, destination, ""));
  const { data: preview, error } = useQuery(previewQuery(ids, destination, into));
  const order = useMutation({
    mutationFn: async () =>
      take(await client.POST("/api/shipments", { body: { ids, destination, folder: into, removes } })),
    onSuccess: (shipment) => {
      void queries.invalidateQueries({ queryKey: keys.shipments });
      void navigate(`/shipments/${shipment.id}`);
    },
    onError: (problem) => notify({ title: problem.message, isProblem: true }),
  });
  if (!props || !project) return <Loading what="the props" />;
  if (!props.length) return <EmptyState title="Nothing to ship">Add props in the Yard first.</EmptyState>;

  const rows = new Map((preview?.rows ?? []).map((row) => [row.prop, row]));
  const going = ids.flatMap((id) => rows.get(id) ?? []).filter((row) => !row.held);
  const files = new Map(going.flatMap((row) => row.files).map((file) => [file.path, file]));
  const told = [...files.values()];
  const known = told.filter((file) => file.bytes !== null);
  const left = preview && into ? preview.left.filter((path) => !preview.changed.includes(path)) : [];
  const isAll = props.every((prop) => chosen.has(prop.id));
  const toggle = (id: number) =>
    setChosen((old) => {
      const next = new Set(old);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  return (
    <div className="flex h-full flex-col bg-sheet">
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
            <Button kind="primary" disabled={!going.length || order.isPending} onClick={() => order.mutate()}>
              {delivers ? "Ship and deliver" : "Ship"} {plural(going.length, "prop")}
            </Button>
          </span>
        </div>
        <div className="flex flex-wrap items-center gap-3">
          <Choosing all={whole} chosen={ids} onChoose={(next) => setChosen(new Set(next))} />
          <span className="ml-auto flex items-center gap-3">
            <CheckRow label="Deliver into" checked={delivers} onChange={setDelivers} />
            {delivers && (
              <>
                <span className="figure text-quiet" title={preview?.root}>
                  {preview?.root.split("/").at(-1)}/
                </span>
                <span className="w-44">
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
              </>
            )}
          </span>
        </div>
        <p className="text-sm text-quiet">
          {plural(files.size, "file")} and manifest.json will be written
          {known.length > 0 && `, ${bytes(known.reduce((sum, file) => sum + (file.bytes ?? 0), 0))}`}
          {known.length < told.length && `; ${told.length - known.length} have no size until they are built`}
          {into && counted(told)}
          {ids.length > going.length && `; ${plural(ids.length - going.length, "prop")} held back`}
        </p>
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
            <CheckRow label={`Remove ${plural(left.length, "file")}`} checked={removes} onChange={setRemoves} />
          </div>
        )}
      </div>
      <div className="min-h-0 grow overflow-auto px-6 py-2">
        <table className="w-full">
          <thead className="text-left text-sm text-quiet">
            <tr className="border-b border-rule-strong">
              <th className="w-9 py-1.5 pr-3">
                <Checkbox
                  label="Choose all props"
                  checked={isAll || (ids.length ? "indeterminate" : false)}
                  onChange={() => setChosen(isAll ? new Set() : new Set(props.map((prop) => prop.id)))}
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
                onToggle={() => toggle(prop.id)}
              />
            ))}
          </tbody>
        </table>
      </div>
    </div>
  );
}

/** How many of the files are new, replaced, left alone or not ours, where anything is to be told. */
function counted(files: { change: string | null }[]): string {
  const words = { made: "new", replaced: "replaced", same: "left alone", foreign: "not ours", unknown: "to be seen" };
  const parts = Object.entries(words).flatMap(([change, word]) => {
    const number = files.filter((file) => file.change === change).length;
    return number ? [`${number} ${word}`] : [];
  });
  return parts.length ? `: ${parts.join(", ")}` : "";
}
