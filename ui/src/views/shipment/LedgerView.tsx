import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { shipmentsQuery } from "../../api/queries";
import { bytes, count, seconds } from "../../parts/format";
import { EmptyState, Loading } from "../../parts/Notes";

/** The ledger of all shipments. */
export default function LedgerView() {
  const { data: shipments, error } = useQuery(shipmentsQuery);
  if (error) return <EmptyState title="The ledger cannot be read">{error.message}</EmptyState>;
  if (!shipments) return <Loading what="the ledger" />;
  if (!shipments.length)
    return <EmptyState title="Nothing shipped yet">Select props in the Yard and press Ship.</EmptyState>;
  return (
    <div className="h-full overflow-auto bg-sheet px-6 py-4">
      <h1 className="mb-3 text-lg font-semibold">Shipments</h1>
      <table className="w-full max-w-5xl">
        <thead className="border-b border-rule-strong text-left text-sm text-quiet">
          <tr>
            {[
              "no.",
              "when",
              "destination",
              "delivered",
              "state",
              "shipped",
              "held",
              "failed",
              "triangles",
              "size",
              "took",
            ].map((head) => (
              <th key={head} className="py-1.5 pr-4 font-normal">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {shipments.map((shipment) => (
            <tr key={shipment.id} className="border-b border-rule hover:bg-paper">
              <td className="py-2 pr-4">
                <Link
                  to={`/shipments/${shipment.id}`}
                  className="figure font-semibold text-mark underline-offset-2 hover:underline"
                >
                  {shipment.id}
                </Link>
              </td>
              <td className="figure pr-4">
                {new Date(shipment.created).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}
              </td>
              <td className="pr-4">{shipment.destination}</td>
              <td className="figure pr-4 text-quiet">{shipment.folder}</td>
              <td className="pr-4">
                {shipment.state !== "running"
                  ? shipment.state
                  : shipment.waiting
                    ? `running, ${shipment.waiting} to go`
                    : "done"}
                {shipment.is_packing && <span className="text-quiet">, packing</span>}
              </td>
              <td className="figure pr-4">{shipment.shipped}</td>
              <td className={`figure pr-4 ${shipment.held ? "text-stop" : ""}`}>{shipment.held}</td>
              <td className={`figure pr-4 ${shipment.failed ? "text-stop" : ""}`}>{shipment.failed}</td>
              <td className="figure pr-4">{count(shipment.triangles)}</td>
              <td className="figure pr-4">{bytes(shipment.bytes)}</td>
              <td className="figure pr-4">{shipment.seconds == null ? "…" : seconds(shipment.seconds)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
