import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";

import { client, take } from "../../api/client";
import { keys, previewQuery, projectQuery, propsQuery } from "../../api/queries";
import { Button } from "../../parts/Button";
import { Checkbox } from "../../parts/Checkbox";
import { plural } from "../../parts/format";
import { EmptyState, Loading } from "../../parts/Notes";
import { SelectBox } from "../../parts/SelectBox";
import { ReadinessMark } from "../../parts/Severity";
import { useNotify } from "../../parts/Toasts";

/** Before a shipment: which props, where to, and the very files that will be written. */
export default function NewShipmentView() {
  const [parameters] = useSearchParams();
  const [chosen, setChosen] = useState(
    () => new Set((parameters.get("ids") ?? "").split(",").filter(Boolean).map(Number)),
  );
  const [destination, setDestination] = useState("plain");
  const navigate = useNavigate();
  const queries = useQueryClient();
  const notify = useNotify();
  const { data: project } = useQuery(projectQuery);
  const { data: props } = useQuery(propsQuery);
  const ids = useMemo(() => [...chosen].sort((a, b) => a - b), [chosen]);
  const { data: preview = [] } = useQuery(previewQuery(ids, destination));
  const order = useMutation({
    mutationFn: async () => take(await client.POST("/api/shipments", { body: { ids, destination } })),
    onSuccess: (shipment) => {
      void queries.invalidateQueries({ queryKey: keys.shipments });
      void navigate(`/shipments/${shipment.id}`);
    },
    onError: (error) => notify({ title: error.message, isProblem: true }),
  });
  if (!props || !project) return <Loading what="the props" />;
  if (!props.length) return <EmptyState title="Nothing to ship">Add props in the Yard first.</EmptyState>;

  const rows = new Map(preview.map((row) => [row.prop, row]));
  const going = ids.filter((id) => rows.get(id) && !rows.get(id)?.held).length;
  const files = new Set(ids.flatMap((id) => rows.get(id)?.files ?? [])).size;
  const toggle = (id: number) =>
    setChosen((old) => {
      const next = new Set(old);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  const isAll = props.every((prop) => chosen.has(prop.id));
  return (
    <div className="flex h-full flex-col bg-sheet">
      <div className="flex flex-wrap items-center gap-3 border-b border-rule px-6 py-2.5">
        <h1 className="text-lg font-semibold">New shipment</h1>
        <span className="text-quiet">to</span>
        <SelectBox
          label="Destination"
          value={destination}
          options={project.destinations.map((d) => ({ value: d.name, label: d.title }))}
          onChange={setDestination}
        />
        <span className="ml-auto text-quiet">
          {plural(files, "file")} and manifest.json will be written
          {ids.length > going && `, ${ids.length - going} held back`}
        </span>
        <span className="text-sm text-quiet">textures beside them not counted</span>
        <Link to="/" className="text-quiet hover:text-ink">
          Back to the Yard
        </Link>
        <Button kind="primary" disabled={!going || order.isPending} onClick={() => order.mutate()}>
          Ship {plural(going, "prop")}
        </Button>
      </div>
      <div className="min-h-0 grow overflow-auto px-6 py-2">
        <table className="w-full">
          <thead className="text-left text-sm text-quiet">
            <tr className="border-b border-rule-strong">
              <th className="w-9 py-1.5">
                <Checkbox
                  label="Choose all props"
                  checked={isAll || (chosen.size ? "indeterminate" : false)}
                  onChange={() => setChosen(isAll ? new Set() : new Set(props.map((prop) => prop.id)))}
                />
              </th>
              <th className="font-normal">prop</th>
              <th className="font-normal">readiness</th>
              <th className="font-normal">file</th>
              <th className="font-normal">mesh nodes</th>
              <th className="font-normal">note</th>
            </tr>
          </thead>
          <tbody>
            {props.map((prop) => {
              const row = chosen.has(prop.id) ? rows.get(prop.id) : undefined;
              return (
                <tr key={prop.id} className={`border-b border-rule ${chosen.has(prop.id) ? "" : "text-quiet"}`}>
                  <td className="py-1">
                    <Checkbox
                      label={`Ship ${prop.name}`}
                      checked={chosen.has(prop.id)}
                      onChange={() => toggle(prop.id)}
                    />
                  </td>
                  <td>
                    <span className="flex items-center gap-2">
                      {prop.picture && <img src={prop.picture} alt="" className="size-8 object-contain" />}
                      {prop.name}
                    </span>
                  </td>
                  <td>
                    <ReadinessMark value={prop.readiness} />
                  </td>
                  <td className="figure">{row?.files.join(", ")}</td>
                  <td className="figure text-sm text-quiet">
                    {row && row.levels.length > 1 ? `${row.levels[0]} … ${row.levels.at(-1)}` : row?.levels[0]}
                  </td>
                  <td className={row?.held ? "text-stop" : "text-quiet"}>
                    {row?.note}
                    {row && row.left.length > 0 && (
                      <span className="text-warning">leaves {row.left.join(", ")} behind</span>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </div>
  );
}
