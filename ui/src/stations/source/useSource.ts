import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";

import { client, type PropDetail, take } from "../../api/client";
import { keys } from "../../api/queries";
import { plural } from "../../parts/format";
import { useNotify } from "../../parts/Toasts";
import { useFilesDecision } from "../useFilesDecision";

/** The choices made by hand when a part is included or excluded. */
export function shipByHand(
  prop: PropDetail,
  path: string,
  ships: boolean,
): { included_parts: string[]; excluded_parts: string[] } {
  const { included_parts, excluded_parts } = prop.settings.source;
  const without = (paths: string[]) => paths.filter((old) => old !== path);
  return ships
    ? { included_parts: [...without(included_parts), path], excluded_parts: without(excluded_parts) }
    : { excluded_parts: [...without(excluded_parts), path], included_parts: without(included_parts) };
}

interface Replaced {
  props: number[];
  refused: { name: string; message: string }[];
}

/** Sending a new version of a prop's source. */
export function useReplaceSource(id: number) {
  const queries = useQueryClient();
  const notify = useNotify();
  return useFilesDecision<Replaced>(`/api/props/${id}/source`, ({ props }) => {
    notify({
      title: "Source replaced",
      lines: [
        props.length > 1
          ? `${props.length} props come from this source; all are being built anew.`
          : "The prop is being built anew; Undo brings the last version back.",
      ],
    });
    void queries.invalidateQueries({ queryKey: keys.props });
  });
}

/** Making the props of a split, in place of the one that is looked at; the toast undoes it. */
export function useSplit(id: number) {
  const queries = useQueryClient();
  const notify = useNotify();
  const navigate = useNavigate();
  const back = useMutation({
    mutationFn: async (ids: number[]) => {
      take(await client.POST("/api/props/remove", { body: { ids } }));
      return take(await client.POST("/api/props/restore", { body: { ids: [id] } }));
    },
    onSuccess: () => void queries.invalidateQueries({ queryKey: keys.props }),
    onError: (problem) => notify({ title: problem.message, isProblem: true }),
  });
  return useMutation({
    mutationFn: async () =>
      take(await client.POST("/api/props/{prop_id}/split", { params: { path: { prop_id: id } } })),
    onSuccess: ({ ids }) => {
      void queries.invalidateQueries({ queryKey: keys.props });
      void navigate("/");
      notify({
        title: `${plural(ids.length, "prop")} made of one source`,
        action: { label: "Undo", run: () => back.mutate(ids) },
      });
    },
    onError: (problem) => notify({ title: problem.message, isProblem: true }),
  });
}
