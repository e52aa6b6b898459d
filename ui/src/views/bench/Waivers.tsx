import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { client, type PropDetail, takeProp } from "../../api/client";
import { keys } from "../../api/queries";
import { Button } from "../../parts/Button";
import { Modal } from "../../parts/Modal";
import { SeverityShape } from "../../parts/Severity";
import { TextField } from "../../parts/TextField";
import { useNotify } from "../../parts/Toasts";

const BY = "plindro.by";
interface WaiversProps {
  prop: number;
  /** Codes of stops that somebody may answer for. */
  waivable: string[];
  waivers: PropDetail["waivers"];
}

/** Stops that somebody answers for by name, so that the prop ships all the same, and those that could be. */
export function Waivers({ prop, waivable, waivers }: WaiversProps) {
  const [code, setCode] = useState<string | null>(null);
  const [by, setBy] = useState(() => localStorage.getItem(BY) ?? "");
  const [reason, setReason] = useState("");
  const queries = useQueryClient();
  const notify = useNotify();
  const options = {
    onSuccess: (next: PropDetail) => {
      queries.setQueryData(keys.prop(prop), next);
      setCode(null);
      setReason("");
    },
    onError: (problem: Error) => notify({ title: problem.message, isProblem: true }),
  };
  const waive = useMutation({
    mutationFn: async () => {
      localStorage.setItem(BY, by);
      return takeProp(
        await client.POST("/api/props/{prop_id}/waivers", {
          params: { path: { prop_id: prop } },
          body: { code: code ?? "", by, reason },
        }),
      );
    },
    ...options,
  });
  const withdraw = useMutation({
    mutationFn: async (gone: string) =>
      takeProp(
        await client.DELETE("/api/props/{prop_id}/waivers/{code}", { params: { path: { prop_id: prop, code: gone } } }),
      ),
    ...options,
  });
  if (!waivable.length && !waivers.length) return null;
  return (
    <section aria-label="Waivers" className="mt-2 space-y-1 text-sm">
      {waivers.map((waiver) => (
        <div key={waiver.code} className="flex items-baseline gap-2">
          <SeverityShape severity="warning" />
          <span className="grow">
            {waiver.code.replaceAll("-", " ")} waived by {waiver.by}: {waiver.reason}
          </span>
          <Button kind="quiet" disabled={withdraw.isPending} onClick={() => withdraw.mutate(waiver.code)}>
            Withdraw
          </Button>
        </div>
      ))}
      {waivable.map((stop) => (
        <Button key={stop} onClick={() => setCode(stop)}>
          Waive {stop.replaceAll("-", " ")} …
        </Button>
      ))}
      <Modal
        open={code !== null}
        onOpenChange={(isOpen) => !isOpen && setCode(null)}
        title={`Waive ${code?.replaceAll("-", " ") ?? ""}`}
        description="The prop ships in spite of this stop. Your name and the reason stand on every report."
      >
        <div className="space-y-3">
          <TextField label="Your name" value={by} onCommit={setBy} live />
          <TextField label="Reason" value={reason} onCommit={setReason} live />
          <Button
            kind="primary"
            disabled={!by.trim() || !reason.trim() || waive.isPending}
            onClick={() => waive.mutate()}
          >
            Waive
          </Button>
        </div>
      </Modal>
    </section>
  );
}
