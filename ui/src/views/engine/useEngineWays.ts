import { useMutation, useQueryClient } from "@tanstack/react-query";

import { client, type Engine, take } from "../../api/client";
import { keys } from "../../api/queries";
import { useNotify } from "../../parts/Toasts";

/** What can be done with the engine project that watches a folder; each way answers with the project as it is then. */
export function useEngineWays(folder: string, engine: Engine | undefined) {
  const queries = useQueryClient();
  const notify = useNotify();
  const change = useMutation({
    mutationFn: (ask: () => Promise<Engine>) => ask(),
    onSuccess: (next) => queries.setQueryData(keys.engine(folder), next),
    onError: (problem) => notify({ title: problem.message, isProblem: true }),
  });
  const path = { project_id: engine?.id ?? 0 };
  const assetPath = (id: number) => ({ path: { ...path, asset_id: id } });
  return {
    isBusy: change.isPending,
    setUp: (body: { destination: string; indices: number }) =>
      change.mutate(async () => take(await client.PATCH("/api/engine/{project_id}", { params: { path }, body }))),
    importDue: () =>
      change.mutate(async () => take(await client.POST("/api/engine/{project_id}/import", { params: { path } }))),
    place: (id: number, body: { x: number; z: number; turn: number }) =>
      change.mutate(async () =>
        take(await client.PATCH("/api/engine/{project_id}/assets/{asset_id}", { params: assetPath(id), body })),
      ),
    forget: (id: number) =>
      change.mutate(async () =>
        take(await client.DELETE("/api/engine/{project_id}/assets/{asset_id}", { params: assetPath(id) })),
      ),
  };
}

export type EngineWays = ReturnType<typeof useEngineWays>;
