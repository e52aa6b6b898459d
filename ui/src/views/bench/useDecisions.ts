import { useMutation, useQueryClient } from "@tanstack/react-query";

import { useCallback } from "react";

import { client, type PropDetail, take, takeProp } from "../../api/client";
import { keys } from "../../api/queries";
import { useNotify } from "../../parts/Toasts";
import type { Decide } from "../../stations/bench";

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
      takeProp(await client.PATCH("/api/props/{prop_id}/settings", { params: { path }, body: { changes } })),
    ...options,
  });
  const name = useMutation({
    mutationFn: async (text: string) =>
      takeProp(await client.PATCH("/api/props/{prop_id}/name", { params: { path }, body: { name: text } })),
    ...options,
  });
  const line = useMutation({
    mutationFn: async (value: string) =>
      takeProp(await client.PATCH("/api/props/{prop_id}/line", { params: { path }, body: { line: value } })),
    ...options,
  });
  const undo = useMutation({
    mutationFn: async () => takeProp(await client.POST("/api/props/{prop_id}/undo", { params: { path } })),
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
  const { mutate } = settings;
  const decide = useCallback<Decide>((station, changes) => mutate({ [station]: changes }), [mutate]);
  return {
    decide,
    rename: name.mutate,
    changeLine: line.mutate,
    undo: undo.mutate,
    redo: redo.mutate,
    rebuild: rebuild.mutate,
  };
}
