import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link, useParams } from "react-router";

import { rehearsalQuery } from "../../api/queries";
import { EmptyState, Loading } from "../../parts/Notes";
import { SeenPanel } from "../engine/SeenPanel";

/** What a receiving engine sees of a shipped prop, from its very bytes. */
export default function RehearsalView() {
  const { id, item } = useParams();
  const { data, error } = useQuery(rehearsalQuery(Number(item)));
  if (error) return <EmptyState title="This rehearsal cannot be shown">{error.message}</EmptyState>;
  if (!data) return <Loading what="the rehearsal" />;
  return (
    <div className="flex h-full flex-col bg-sheet">
      <div className="flex flex-wrap items-center gap-4 border-b border-rule px-6 py-2.5">
        <h1 className="text-lg font-semibold">
          <Up to="/shipments">Shipments</Up> /{" "}
          <Up to={`/shipments/${id}`}>
            no. <span className="figure">{id}</span>
          </Up>{" "}
          / {data.name}
        </h1>
        <span className="text-quiet">read back as {data.destination}</span>
      </div>
      <div className="min-h-0 grow overflow-auto px-6 py-3">
        <SeenPanel
          seen={data.seen}
          findings={data.findings}
          limit={data.vertex_limit}
          wantsLightMap={data.wants_light_map}
        />
      </div>
    </div>
  );
}

function Up({ to, children }: { to: string; children: ReactNode }) {
  return (
    <Link to={to} className="text-quiet hover:text-ink">
      {children}
    </Link>
  );
}
