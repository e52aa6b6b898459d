import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { client, take } from "../../api/client";
import { propsQuery } from "../../api/queries";
import { Button } from "../../parts/Button";
import { Checkbox } from "../../parts/Checkbox";
import { Progress } from "../../parts/Progress";
import { useNotify } from "../../parts/Toasts";
import { trialQuery } from "./api";
import type { Data, Kind } from "./schema";
import { TrialResult } from "./TrialResult";

const MOST = 12;

interface TrialPanelProps {
  kind: Kind;
  data: Data;
  isFaulty: boolean;
}

/** The draft on a handful of props, before it is saved. */
export function TrialPanel({ kind, data, isFaulty }: TrialPanelProps) {
  const { data: props = [] } = useQuery(propsQuery);
  const candidates = kind === "line" ? props.filter(({ line }) => line === data.name) : props;
  const [chosen, setChosen] = useState<number[] | null>(null);
  const [id, setId] = useState<number | null>(null);
  const { data: trial } = useQuery(trialQuery(id));
  const notify = useNotify();
  const ids = chosen ?? (candidates.length ? candidates : props).slice(0, 1).map((prop) => prop.id);
  const start = useMutation({
    mutationFn: async () =>
      take(
        await client.POST("/api/catalogue/{kind}/trial", {
          params: { path: { kind } },
          body: { data, props: ids },
        }),
      ),
    onSuccess: (begun) => setId(begun.id),
    onError: (error) => notify({ title: error.message, isProblem: true }),
  });
  const cancel = async (trialId: number) =>
    take(await client.POST("/api/trials/{trial_id}/cancel", { params: { path: { trial_id: trialId } } }));
  const isRunning = trial?.rows.some((row) => row.state === "waiting") ?? false;
  const toggle = (prop: number) => setChosen(ids.includes(prop) ? ids.filter((one) => one !== prop) : [...ids, prop]);
  return (
    <div className="p-3">
      <p className="mb-2 text-quiet">
        What would come of it, byte for byte; nothing on the board changes. {MOST} props at most.
      </p>
      <ul className="mb-2 max-h-36 overflow-auto border-y border-rule py-1">
        {[...candidates, ...props.filter((prop) => !candidates.includes(prop))].map((prop) => (
          <li key={prop.id} className="flex items-center gap-2 py-0.5">
            <Checkbox label={`Try ${prop.name}`} checked={ids.includes(prop.id)} onChange={() => toggle(prop.id)} />
            <span className={candidates.includes(prop) ? "" : "text-quiet"}>{prop.name}</span>
            {!candidates.includes(prop) && <span className="text-sm text-quiet">on {prop.line}</span>}
          </li>
        ))}
      </ul>
      <div className="flex items-center gap-2">
        <Button
          kind="mark"
          disabled={isFaulty || !ids.length || ids.length > MOST || start.isPending || isRunning}
          onClick={() => start.mutate()}
        >
          Try on {ids.length} {ids.length === 1 ? "prop" : "props"}
        </Button>
        {isRunning && trial && <Button onClick={() => void cancel(trial.id)}>Cancel</Button>}
      </div>
      {isRunning && trial && (
        <div className="mt-2">
          <Progress label={trial.doing || "waiting"} fraction={trial.fraction} />
          <p className="truncate text-sm text-quiet">{trial.doing || "waiting"}</p>
        </div>
      )}
      {trial?.rows.map((row) => (
        <TrialResult key={row.prop} row={row} />
      ))}
    </div>
  );
}
