import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";

import { client, take } from "../api/client";
import { keys, storageQuery } from "../api/queries";
import { Button } from "../parts/Button";
import { bytes, count, plural } from "../parts/format";
import { EmptyState, Loading } from "../parts/Notes";
import { useNotify } from "../parts/Toasts";

const TITLES: Record<string, string> = {
  sources: "Sources of props",
  results: "Results of builds",
  shipments: "Shipments",
  unused: "Unused",
  database: "Database",
};

/** What fills the disk, and the one button that frees what nothing needs. */
export default function StorageSheet() {
  const queries = useQueryClient();
  const notify = useNotify();
  const { data, error } = useQuery(storageQuery);
  const free = useMutation({
    mutationFn: async () => take(await client.POST("/api/storage/free")),
    onSuccess: ({ files, bytes: size, storage }) => {
      queries.setQueryData(keys.storage, storage);
      notify({ title: `${bytes(size)} freed`, lines: [plural(files, "file") + " removed"] });
    },
    onError: (problem) => notify({ title: problem.message, isProblem: true }),
  });
  if (error) return <EmptyState title="The store cannot be read">{error.message}</EmptyState>;
  if (!data) return <Loading what="the store" />;
  const days = plural(Math.round(data.grace_days), "day");
  return (
    <>
      <p className="figure mb-2 break-all text-quiet">{data.folder}</p>
      <table className="w-full">
        <thead className="text-quiet">
          <tr>
            <th className="py-1 text-left font-normal">What</th>
            <th className="py-1 text-right font-normal">Files</th>
            <th className="py-1 text-right font-normal">Size</th>
          </tr>
        </thead>
        <tbody>
          {data.shares.map((share) => (
            <tr key={share.name} className="border-t border-rule">
              <th scope="row" className="py-1.5 text-left font-medium">
                {TITLES[share.name] ?? share.name}
              </th>
              <td className="figure py-1.5 text-right">{count(share.files)}</td>
              <td className="figure py-1.5 text-right">{bytes(share.bytes)}</td>
            </tr>
          ))}
        </tbody>
        <tfoot>
          <tr className="border-t border-rule-strong">
            <th scope="row" className="py-1.5 text-left font-semibold">
              In all
            </th>
            <td />
            <td className="figure py-1.5 text-right font-semibold">{bytes(data.bytes)}</td>
          </tr>
        </tfoot>
      </table>
      <div className="mt-4 flex items-center justify-between gap-4">
        <p className="text-quiet">
          Unused files, old results, and props taken off the board are kept for {days}; then they are removed once a
          day, or now.
        </p>
        <Button kind="primary" disabled={!data.removable || free.isPending} onClick={() => free.mutate()}>
          {data.removable ? `Free ${bytes(data.removable)}` : "Nothing to free"}
        </Button>
      </div>
    </>
  );
}
