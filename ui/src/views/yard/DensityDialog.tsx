import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";

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
  const isCalledOff = useRef(false);
  const undo = useMutation({
    mutationFn: async (decided: number[]) => {
      for (const id of decided)
        takeProp(await client.POST("/api/props/{prop_id}/undo", { params: { path: { prop_id: id } } }));
    },
    onSettled: () => void queries.invalidateQueries({ queryKey: keys.props }),
    onError: (problem) => notify({ title: problem.message, isProblem: true }),
  });
  /** Told with a way back, where any prop was decided; of all, of those until it was called off or refused. */
  const tell = (decided: number[]) => {
    if (!decided.length) return;
    const those = decided.length < ids.length ? `${decided.length} of ${ids.length} props` : plural(ids.length, "prop");
    notify({
      title: `${those} at ${count(density)} px/m`,
      action: { label: "Undo", run: () => undo.mutate(decided) },
    });
  };
  const level = useMutation({
    mutationFn: async () => {
      const changes = { uvs: { method: "repack", density, resolution } };
      const decided: number[] = [];
      isCalledOff.current = false;
      setDone(0);
      try {
        for (const id of ids) {
          if (isCalledOff.current) break;
          takeProp(
            await client.PATCH("/api/props/{prop_id}/settings", {
              params: { path: { prop_id: id } },
              body: { changes },
            }),
          );
          decided.push(id);
          setDone(decided.length);
        }
      } finally {
        tell(decided);
      }
    },
    onSuccess: onClose,
    onSettled: () => void queries.invalidateQueries({ queryKey: keys.props }),
  });
  const callOff = () => {
    isCalledOff.current = true;
    if (!level.isPending) onClose();
  };
  return (
    <Modal
      open
      onOpenChange={callOff}
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
          <span className="flex gap-2">
            {level.isPending && <Button onClick={callOff}>Cancel</Button>}
            <Button kind="primary" type="submit" disabled={level.isPending}>
              Repack {plural(ids.length, "prop")}
            </Button>
          </span>
        </div>
      </form>
    </Modal>
  );
}
