import { useMutation, useQueryClient } from "@tanstack/react-query";

import { useCallback, useState } from "react";

import { client, type PropDetail, Stale, type StaleRow, take, takeProp } from "../../api/client";
import { keys } from "../../api/queries";
import { useNotify } from "../../parts/Toasts";
import type { Bench, Decide } from "../../stations/bench";

/** What can be decided about a prop in one request. */
interface Decision {
  settings?: Record<string, Record<string, unknown>>;
  name?: string;
  line?: string;
  /** The version that it is decided in view of; that which is shown, where there is none. */
  version?: number;
}

/** Two browsers decided the same: what each has, and the two ways to go on. */
export interface Dispute {
  rows: StaleRow[];
  keepTheirs: () => void;
  useMine: () => void;
}

async function send(id: number, { settings, name, line }: Decision, version: number | undefined): Promise<PropDetail> {
  const params = { path: { prop_id: id } };
  if (name !== undefined)
    return takeProp(await client.PATCH("/api/props/{prop_id}/name", { params, body: { name, version } }));
  if (line !== undefined)
    return takeProp(await client.PATCH("/api/props/{prop_id}/line", { params, body: { line, version } }));
  const body = { changes: settings ?? {}, version };
  return takeProp(await client.PATCH("/api/props/{prop_id}/settings", { params, body }));
}

/** Decisions on a prop and their undo; each answer is the prop as it stands then. */
export function useDecisions(id: number) {
  const queries = useQueryClient();
  const notify = useNotify();
  const [dispute, setDispute] = useState<Dispute | null>(null);
  const path = { prop_id: id };
  const options = {
    onSuccess: (prop: PropDetail) => {
      // Of two answers that overtake each other the newer one holds.
      queries.setQueryData<PropDetail>(keys.prop(id), (old) => (old && old.version > prop.version ? old : prop));
      void queries.invalidateQueries({ queryKey: keys.props, exact: true });
    },
    onError: (error: Error) => {
      notify({ title: error.message, isProblem: true });
      void queries.invalidateQueries({ queryKey: keys.prop(id) });
    },
  };
  const askWhich: Bench["askWhich"] = (error, again) => {
    void queries.invalidateQueries({ queryKey: keys.prop(id) });
    setDispute({
      rows: error.rows,
      keepTheirs: () => setDispute(null),
      useMine: () => {
        setDispute(null);
        again(error.version);
      },
    });
  };
  const decision = useMutation({
    mutationFn: (decided: Decision) =>
      send(id, decided, decided.version ?? queries.getQueryData<PropDetail>(keys.prop(id))?.version),
    onSuccess: options.onSuccess,
    onError: (error: Error, decided) => {
      if (error instanceof Stale) askWhich(error, (version) => decision.mutate({ ...decided, version }));
      else options.onError(error);
    },
  });
  const undo = useMutation({
    mutationFn: async (of_anyone: boolean) =>
      takeProp(await client.POST("/api/props/{prop_id}/undo", { params: { path, query: { of_anyone } } })),
    ...options,
  });
  const redo = useMutation({
    mutationFn: async () => takeProp(await client.POST("/api/props/{prop_id}/redo", { params: { path } })),
    ...options,
  });
  const rebuild = useMutation({
    mutationFn: async () => take(await client.POST("/api/props/{prop_id}/rebuild", { params: { path } })),
    onSuccess: () => void queries.invalidateQueries({ queryKey: keys.props }),
    onError: options.onError,
  });
  const { mutate } = decision;
  const decide = useCallback<Decide>((station, changes) => mutate({ settings: { [station]: changes } }), [mutate]);
  /** Takes one's own last decision back; of another's it says so, and offers it. */
  const takeBack = (last: PropDetail["undo"]) => {
    if (!last || last.is_own) return undo.mutate(false);
    notify({
      title: `“${last.label}” was decided in another browser`,
      lines: ["It can be undone there, or here all the same."],
      action: { label: "Undo it here", run: () => undo.mutate(true) },
    });
  };
  return {
    decide,
    dispute,
    askWhich,
    rename: (name: string) => mutate({ name }),
    changeLine: (line: string) => mutate({ line }),
    undo: takeBack,
    redo: redo.mutate,
    rebuild: rebuild.mutate,
  };
}
