import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { client, takeProp } from "../../api/client";
import { keys } from "../../api/queries";
import { Button } from "../../parts/Button";
import { count, plural } from "../../parts/format";
import { Modal } from "../../parts/Modal";
import { Progress } from "../../parts/Progress";
import { SelectBox } from "../../parts/SelectBox";
import { NumberField } from "../../parts/TextField";
import { useNotify } from "../../parts/Toasts";

const SIZES = [256, 512, 1024, 2048, 4096];

interface DensityDialogProps {
  ids: number[];
  onClose: () => void;
}

/** The same pixels per metre for several props: the islands of each repacked at that density. */
export function DensityDialog({ ids, onClose }: DensityDialogProps) {
  const notify = useNotify();
  const queries = useQueryClient();
  const [density, setDensity] = useState(512);
  const [resolution, setResolution] = useState(1024);
  const [done, setDone] = useState(0);
  const undo = useMutation({
    mutationFn: async (decided: number[]) => {
      for (const id of decided)
        takeProp(await client.POST("/api/props/{prop_id}/undo", { params: { path: { prop_id: id } } }));
    },
    onSettled: () => void queries.invalidateQueries({ queryKey: keys.props }),
    onError: (problem) => notify({ title: problem.message, isProblem: true }),
  });
  const level = useMutation({
    mutationFn: async () => {
      const changes = { uvs: { method: "repack", density, resolution } };
      setDone(0);
      for (const id of ids) {
        takeProp(
          await client.PATCH("/api/props/{prop_id}/settings", {
            params: { path: { prop_id: id } },
            body: { changes },
          }),
        );
        setDone((before) => before + 1);
      }
    },
    onSuccess: () => {
      notify({
        title: `${plural(ids.length, "prop")} at ${count(density)} px/m`,
        action: { label: "Undo", run: () => undo.mutate(ids) },
      });
      onClose();
    },
    onSettled: () => void queries.invalidateQueries({ queryKey: keys.props }),
  });
  return (
    <Modal
      open
      onOpenChange={onClose}
      title="Even density"
      description={`Islands of ${plural(ids.length, "prop")} repacked, all with as many pixels per metre. A prop for which the texture is too small says so.`}
    >
      <form
        className="space-y-2.5"
        onSubmit={(event) => {
          event.preventDefault();
          level.mutate();
        }}
      >
        <NumberField
          label="Density"
          unit="px/m"
          inline
          value={density}
          limits={{ above: 0, high: 65536 }}
          onCommit={setDensity}
        />
        <div className="flex items-center justify-between gap-2">
          <span className="text-sm text-quiet">Texture</span>
          <SelectBox
            label="Texture"
            className="w-48"
            value={`${resolution}`}
            options={SIZES.map((pixels) => ({ value: `${pixels}`, label: `${count(pixels)} × ${count(pixels)} px` }))}
            onChange={(value) => setResolution(Number(value))}
          />
        </div>
        {level.isPending && <Progress label="deciding" fraction={done / ids.length} />}
        <div className="flex items-center justify-between gap-4 pt-2">
          <p className="text-stop" role={level.error ? "alert" : undefined}>
            {level.error?.message}
          </p>
          <Button kind="primary" type="submit" disabled={level.isPending}>
            Repack {plural(ids.length, "prop")}
          </Button>
        </div>
      </form>
    </Modal>
  );
}
