import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { useNavigate, useSearchParams } from "react-router";

import { client, type ShipmentPreview, take } from "../../api/client";
import { keys, previewQuery, projectQuery, propsQuery } from "../../api/queries";
import { useNotify } from "../../parts/Toasts";
import { useFolder } from "./folder";

type Row = ShipmentPreview["rows"][number];

/** A shipment before it is ordered: which props, where to, and what would be written of them. */
export function useNewShipment() {
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
  const rows = new Map((preview?.rows ?? []).map((row) => [row.prop, row]));
  const going = ids.flatMap((id) => rows.get(id) ?? []).filter((row) => !row.held);
  return {
    project,
    props,
    ids,
    choose: (next: Iterable<number>) => setChosen(new Set(next)),
    toggle: (id: number) =>
      setChosen((old) => {
        const next = new Set(old);
        if (!next.delete(id)) next.add(id);
        return next;
      }),
    destination,
    setDestination,
    folder,
    /** Another folder; what is left behind there was not agreed to go. */
    setFolder: (next: string) => {
      setRemoves(false);
      setFolder(next);
    },
    delivers,
    setDelivers,
    removes,
    setRemoves,
    /** What a shipment of all props would be. */
    whole,
    preview,
    error,
    /** What would be written of those that are chosen, by prop; and of which anything would. */
    rows,
    going,
    /** What earlier deliveries left in the folder and nobody changed since. */
    left: preview && into ? preview.left.filter((path) => !preview.changed.includes(path)) : [],
    order: order.mutate,
    isOrdering: order.isPending,
  };
}

export type NewShipment = ReturnType<typeof useNewShipment>;

/** In words: how many files will be written, how large, and what becomes of those that are there. */
export function filesInWords(going: Row[]): { files: number; known: number; bytes: number; changes: string } {
  const files = [...new Map(going.flatMap((row) => row.files).map((file) => [file.path, file])).values()];
  const known = files.filter((file) => file.bytes !== null);
  return {
    files: files.length,
    known: known.length,
    bytes: known.reduce((sum, file) => sum + (file.bytes ?? 0), 0),
    changes: counted(files),
  };
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
