import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useMemo } from "react";
import { Link, useNavigate, useParams } from "react-router";

import { client, take } from "../../api/client";
import { keys, shipmentQuery } from "../../api/queries";
import { useActivity } from "../../app/activity";
import { useRun } from "../../app/useRun";
import { Button } from "../../parts/Button";
import { bytes, count, roughly, seconds } from "../../parts/format";
import { EmptyState, Loading } from "../../parts/Notes";
import { Progress } from "../../parts/Progress";
import { useNotify } from "../../parts/Toasts";
import { Delivery } from "./Delivery";
import { ItemRow } from "./ItemRow";

/** One shipment: every prop with its progress, files and findings. */
export default function ShipmentView() {
  const id = Number(useParams().id);
  const { data: shipment, error } = useQuery(shipmentQuery(id));
  const { jobs } = useActivity();
  const queries = useQueryClient();
  const notify = useNotify();
  const navigate = useNavigate();
  const act = useMutation({
    mutationFn: async (what: "cancel" | "retry" | "repeat") =>
      take(await client.POST(`/api/shipments/{shipment_id}/${what}`, { params: { path: { shipment_id: id } } })),
    onSuccess: (next) => {
      void queries.invalidateQueries({ queryKey: keys.shipments });
      if (next.id !== id) void navigate(`/shipments/${next.id}`);
    },
    onError: (problem) => notify({ title: problem.message, isProblem: true }),
  });
  const own = useMemo(() => {
    const items = new Set(shipment?.items.map((item) => item.id));
    return jobs.filter((job) => job.kind === "ship" && job.subject !== null && items.has(job.subject));
  }, [jobs, shipment?.items]);
  const left = useRun(own)?.left ?? null;
  if (error) return <EmptyState title="This shipment cannot be shown">{error.message}</EmptyState>;
  if (!shipment) return <Loading what="the shipment" />;
  const mine = new Map(own.map((job) => [job.subject, job]));
  const done = shipment.items.length - shipment.waiting;
  const partly = [...mine.values()].reduce((sum, job) => sum + job.fraction, 0);
  const fraction = (done + Math.min(partly, shipment.waiting)) / Math.max(shipment.items.length, 1);
  const running = shipment.state === "running";
  const stage = `${done} of ${shipment.items.length} done`;
  const undone = shipment.held + shipment.failed + shipment.cancelled;
  return (
    <div className="flex h-full flex-col bg-sheet">
      <div className="border-b border-rule px-6 pt-2.5">
        <div className="flex flex-wrap items-center gap-x-6 gap-y-2 pb-2.5">
          <h1 className="text-lg font-semibold">
            <Link to="/shipments" className="text-quiet hover:text-ink">
              Shipments
            </Link>{" "}
            / no. <span className="figure">{shipment.id}</span>
          </h1>
          <Figure label="state" value={running ? stage : shipment.state} />
          <Figure label="shipped" value={`${shipment.shipped} / ${shipment.items.length}`} />
          <Figure label="held" value={String(shipment.held)} bad={shipment.held > 0} />
          <Figure label="failed" value={String(shipment.failed)} bad={shipment.failed > 0} />
          <Figure label="triangles" value={count(shipment.triangles)} />
          <Figure label="size" value={bytes(shipment.bytes)} />
          {running && left !== null && <Figure label="time left" value={`about ${roughly(left)}`} />}
          {shipment.seconds != null && <Figure label="took" value={seconds(shipment.seconds)} />}
          <div className="ml-auto flex gap-2">
            {running && (
              <Button onClick={() => act.mutate("cancel")} disabled={act.isPending}>
                Cancel
              </Button>
            )}
            {!running && undone > 0 && (
              <Button
                onClick={() => act.mutate("retry")}
                disabled={act.isPending}
                title="builds what failed, was called off or held back again, with the waivers that stand now"
              >
                Try {undone} again
              </Button>
            )}
            {!running && (
              <Button
                onClick={() => act.mutate("repeat")}
                disabled={act.isPending}
                title="ships the same props again, as they are decided now"
              >
                Ship again
              </Button>
            )}
            {shipment.before !== null && (
              <Go to={`/shipments/${id}/compare`}>
                Compare with no. <span className="figure">{shipment.before}</span>
              </Go>
            )}
            {shipment.report && <Go href={shipment.report}>Report</Go>}
            {shipment.contact_sheet && <Go href={shipment.contact_sheet}>Contact sheet</Go>}
            {shipment.is_packing && <span className="self-center text-quiet">packing the zip …</span>}
            {shipment.archive && (
              <a
                href={shipment.archive}
                download
                className="inline-flex h-7 items-center rounded bg-ink px-2.5 font-medium whitespace-nowrap text-sheet hover:opacity-90"
              >
                Download zip
              </a>
            )}
          </div>
        </div>
        {running && <Progress label="shipment" fraction={fraction} />}
        {shipment.error && (
          <p role="alert" className="mt-1 text-stop">
            No archive was written: {shipment.error}
          </p>
        )}
      </div>
      {!running && shipment.shipped > 0 && <Delivery shipment={shipment} />}
      <div className="min-h-0 grow overflow-auto px-6 py-2">
        <table className="w-full">
          <thead className="text-left text-sm text-quiet">
            <tr className="border-b border-rule-strong">
              {["prop", "state", "levels", "files", "took", "rehearsal", "findings"].map((head) => (
                <th key={head} className="py-1.5 pr-4 font-normal">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {shipment.items.map((item) => (
              <ItemRow key={item.id} item={item} job={mine.get(item.id)} shipment={id} />
            ))}
          </tbody>
        </table>
      </div>
    </div>
  );
}

/** A place to go that looks as a button does; what lies on the server opens beside. */
function Go({ to, href, children }: { to?: string; href?: string; children: ReactNode }) {
  const look =
    "inline-flex h-7 items-center gap-1 rounded border border-rule-control bg-sheet px-2.5 font-medium whitespace-nowrap hover:border-ink";
  if (to !== undefined)
    return (
      <Link to={to} className={look}>
        {children}
      </Link>
    );
  return (
    <a href={href} target="_blank" rel="noreferrer" className={look}>
      {children}
    </a>
  );
}

function Figure({ label, value, bad }: { label: string; value: string; bad?: boolean }) {
  return (
    <div className="leading-4">
      <div className="text-sm text-quiet">{label}</div>
      <div className={`figure ${bad ? "text-stop" : ""}`}>{value}</div>
    </div>
  );
}
