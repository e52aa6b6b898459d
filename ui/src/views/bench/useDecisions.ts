import { useMutation, useQueryClient } from "@tanstack/react-query";

import { client, type PropDetail, take } from "../../api/client";
import { keys } from "../../api/queries";
import { useNotify } from "../../parts/Toasts";
import type { StationName } from "./summaries";

export type Decide = (station: StationName, changes: Record<string, unknown>) => void;

/** Decisions on a prop and their undo; each answer is the prop as it stands then. */
export function useDecisions(id: number) {
  const queries = useQueryClient();
  const notify = useNotify();
  const path = { prop_id: id };
  const options = {
    onSuccess: (prop: PropDetail) => {
      queries.setQueryData(keys.prop(id), prop);
      void queries.invalidateQueries({ queryKey: keys.props, exact: true });
    },
    onError: (error: Error) => {
      notify({ title: error.message, isProblem: true });
      void queries.invalidateQueries({ queryKey: keys.prop(id) });
    },
  };
  const settings = useMutation({
    mutationFn: async (changes: Record<string, Record<string, unknown>>) =>
      take(await client.PATCH("/api/props/{prop_id}/settings", { params: { path }, body: { changes } })),
    ...options,
  });
  const name = useMutation({
    mutationFn: async (text: string) => take(await client.PATCH("/api/props/{prop_id}/name", { params: { path }, body: { name: text } })),
    ...options,
  });
  const line = useMutation({
    mutationFn: async (value: string) => take(await client.PATCH("/api/props/{prop_id}/line", { params: { path }, body: { line: value } })),
    ...options,
  });
  const undo = useMutation({
    mutationFn: async () => take(await client.POST("/api/props/{prop_id}/undo", { params: { path } })),
    ...options,
  });
  const redo = useMutation({
    mutationFn: async () => take(await client.POST("/api/props/{prop_id}/redo", { params: { path } })),
    ...options,
  });
  const rebuild = useMutation({
    mutationFn: async () => take(await client.POST("/api/props/{prop_id}/rebuild", { params: { path } })),
    onSuccess: () => void queries.invalidateQueries({ queryKey: keys.props }),
    onError: options.onError,
  });
  const decide: Decide = (station, changes) => settings.mutate({ [station]: changes });
  return { decide, rename: name.mutate, changeLine: line.mutate, undo: undo.mutate, redo: redo.mutate, rebuild: rebuild.mutate };
}
