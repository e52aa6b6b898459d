import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";

import type { Compared } from "../../api/client";
import { comparedQuery } from "../../api/queries";
import { bytes, change, count, plural } from "../../parts/format";
import { EmptyState, Loading } from "../../parts/Notes";
import { SeverityShape } from "../../parts/Severity";

type Row = Compared["props"][number];
type Side = NonNullable<Row["before"]>;

const WORDS = { same: "the same", changed: "changed", added: "added", gone: "not in this one" } as const;

/** A shipment beside the one before it: pictures, counts, bytes, and findings that came or went. */
export default function ComparedView() {
  const id = Number(useParams().id);
  const { data, error } = useQuery(comparedQuery(id));
  if (error) return <EmptyState title="These shipments cannot be compared">{error.message}</EmptyState>;
  if (!data) return <Loading what="both shipments" />;
  return (
    <div className="flex h-full flex-col bg-sheet">
      <div className="flex flex-wrap items-center gap-4 border-b border-rule px-6 py-2.5">
        <h1 className="text-lg font-semibold">
          <Link to="/shipments" className="text-quiet hover:text-ink">
            Shipments
          </Link>{" "}
          /{" "}
          <Link to={`/shipments/${id}`} className="text-quiet hover:text-ink">
            no. <span className="figure">{id}</span>
          </Link>{" "}
          / compared
        </h1>
        {data.other !== null && (
          <span className="text-quiet">
            with no.{" "}
            <Link to={`/shipments/${data.other}`} className="figure text-mark hover:underline">
              {data.other}
            </Link>
            : {plural(data.props.length, "prop")} differ{data.props.length === 1 ? "s" : ""}, {data.same} the same to
            the byte
          </span>
        )}
      </div>
      {data.other === null ? (
        <EmptyState title="Nothing to compare with">No earlier shipment to this destination has its props.</EmptyState>
      ) : data.props.length ? (
        <div className="min-h-0 grow overflow-auto px-6 py-2">
          <table className="w-full">
            <thead className="text-left text-sm text-quiet">
              <tr className="border-b border-rule-strong">
                {["prop", "before", "now", "triangles by level", "size", "findings that came or went"].map((head) => (
                  <th key={head} className="py-1.5 pr-4 font-normal">
                    {head}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {data.props.map((row) => (
                <ComparedRow key={row.prop} row={row} />
              ))}
            </tbody>
          </table>
        </div>
      ) : (
        <EmptyState title="No difference">Every file is the same to the byte.</EmptyState>
      )}
    </div>
  );
}

function ComparedRow({ row }: { row: Row }) {
  const { before, after } = row;
  return (
    <tr className="border-b border-rule align-top">
      <td className="py-2 pr-4">
        <div className="font-semibold">{row.name}</div>
        <div className={`text-sm ${row.change === "gone" ? "text-warning" : "text-quiet"}`}>{WORDS[row.change]}</div>
      </td>
      <td className="py-2 pr-4">
        <Picture side={before} name={`${row.name} before`} />
      </td>
      <td className="py-2 pr-4">
        <Picture side={after} name={`${row.name} now`} />
      </td>
      <td className="figure py-2 pr-4">
        {Array.from({ length: Math.max(before?.triangles.length ?? 0, after?.triangles.length ?? 0) }, (_, k) => (
          <div key={k} className="whitespace-nowrap">
            <span className="text-quiet">LOD{k}</span> {told(before?.triangles[k], after?.triangles[k])}
          </div>
        ))}
      </td>
      <td className="figure py-2 pr-4 whitespace-nowrap">
        {before && after ? (
          <>
            {bytes(before.bytes)} → {bytes(after.bytes)}{" "}
            <span className="text-quiet">{change(before.bytes, after.bytes)}</span>
          </>
        ) : (
          bytes((before ?? after)?.bytes ?? 0)
        )}
      </td>
      <td className="max-w-100 py-2">
        {row.appeared.map((message) => (
          <div key={message} className="flex items-baseline gap-1.5">
            <SeverityShape severity="warning" /> came: {message}
          </div>
        ))}
        {row.gone.map((message) => (
          <div key={message} className="flex items-baseline gap-1.5 text-quiet">
            <SeverityShape severity="fine" /> went: {message}
          </div>
        ))}
        {!row.appeared.length && !row.gone.length && <span className="text-quiet">none</span>}
      </td>
    </tr>
  );
}

/** A count then and now; a level that only one has is told. */
function told(before: number | undefined, after: number | undefined): string {
  if (before === undefined) return `new, ${count(after ?? 0)}`;
  if (after === undefined) return `${count(before)} → none`;
  return before === after ? count(after) : `${count(before)} → ${count(after)} (${change(before, after)})`;
}

function Picture({ side, name }: { side: Side | null; name: string }) {
  if (!side) return <span className="text-quiet">none</span>;
  return (
    <div className="w-24">
      {side.picture && <img src={side.picture} alt={name} className="size-24 object-contain" />}
      {side.state !== "shipped" && <div className="text-sm text-stop">{side.state}</div>}
    </div>
  );
}
