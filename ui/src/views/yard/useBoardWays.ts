import { useMutation, useQueryClient } from "@tanstack/react-query";

import { client, take } from "../../api/client";
import { keys } from "../../api/queries";
import { plural } from "../../parts/format";
import { useNotify } from "../../parts/Toasts";

/** What can be done with props of the board at once. */
export function useBoardWays({ onRemoved }: { onRemoved: () => void }) {
  const queries = useQueryClient();
  const notify = useNotify();
  const readAgain = () => void queries.invalidateQueries({ queryKey: keys.props });
  const onError = (problem: Error) => notify({ title: problem.message, isProblem: true });
  const restore = useMutation({
    mutationFn: async (ids: number[]) => take(await client.POST("/api/props/restore", { body: { ids } })),
    onSuccess: readAgain,
    onError,
  });
  const buildStale = useMutation({
    mutationFn: async () => take(await client.POST("/api/lines/build-stale")),
    onSuccess: readAgain,
    onError,
  });
  const remove = useMutation({
    mutationFn: async (ids: number[]) => take(await client.POST("/api/props/remove", { body: { ids } })),
    onSuccess: ({ count }, ids) => {
      onRemoved();
      readAgain();
      notify({
        title: `${plural(count, "prop")} taken off the board`,
        action: { label: "Undo", run: () => restore.mutate(ids) },
      });
    },
    onError,
  });
  return { remove: remove.mutate, buildStale: () => buildStale.mutate() };
}
