import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { client, type ShipmentPreview, take } from "../../api/client";
import { keys, selectionsQuery } from "../../api/queries";
import { Button } from "../../parts/Button";
import { Modal } from "../../parts/Modal";
import { SelectBox } from "../../parts/SelectBox";
import { TextField } from "../../parts/TextField";
import { useNotify } from "../../parts/Toasts";

/** No name of a selection: those have no blanks around them. */
const NONE = " ";

interface ChoosingProps {
  /** What a shipment of all props of the board would be: how each stands to its last one. */
  all: ShipmentPreview | undefined;
  chosen: number[];
  onChoose: (ids: number[]) => void;
}

/** Ways to choose many props at once: all that changed, and selections under a name. */
export function Choosing({ all, chosen, onChoose }: ChoosingProps) {
  const { data: selections = [] } = useQuery(selectionsQuery);
  const queries = useQueryClient();
  const notify = useNotify();
  const [isNaming, setNaming] = useState(false);
  const [name, setName] = useState("");
  const options = {
    onSuccess: (rows: typeof selections) => {
      queries.setQueryData(keys.selections, rows);
      setNaming(false);
    },
    onError: (problem: Error) => notify({ title: problem.message, isProblem: true }),
  };
  const save = useMutation({
    mutationFn: async () => take(await client.POST("/api/selections", { body: { name, props: chosen } })),
    ...options,
  });
  const forget = useMutation({
    mutationFn: async (gone: string) =>
      take(await client.DELETE("/api/selections/{name}", { params: { path: { name: gone } } })),
    ...options,
  });
  const changed = (all?.rows ?? []).filter(({ since, held }) => !held && (since === "changed" || since === "new"));
  const same = (ids: number[]) => ids.length === chosen.length && ids.every((id) => chosen.includes(id));
  const current = selections.find(({ props }) => same(props))?.name ?? NONE;
  return (
    <>
      <Button
        disabled={!changed.length}
        title="props that are other than in their last shipment to this destination, or were in none"
        onClick={() => onChoose(changed.map(({ prop }) => prop))}
      >
        All that changed · <span className="figure">{changed.length}</span>
      </Button>
      {selections.length > 0 && (
        <SelectBox
          label="Selection"
          value={current}
          options={[
            { value: NONE, label: "selection …" },
            ...selections.map((row) => ({ value: row.name, label: `${row.name} · ${row.props.length}` })),
          ]}
          onChange={(next) => onChoose(selections.find((row) => row.name === next)?.props ?? chosen)}
        />
      )}
      {current === NONE ? (
        <Button kind="quiet" disabled={!chosen.length} onClick={() => setNaming(true)}>
          Save selection
        </Button>
      ) : (
        <Button kind="quiet" onClick={() => forget.mutate(current)}>
          Forget “{current}”
        </Button>
      )}
      <Modal
        open={isNaming}
        onOpenChange={setNaming}
        title="Save selection"
        description={`${chosen.length} props that can be chosen again by one name`}
      >
        <form
          className="flex items-end gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            save.mutate();
          }}
        >
          <span className="grow">
            <TextField label="Name" value={name} onCommit={setName} live />
          </span>
          <Button kind="primary" type="submit" disabled={!name.trim() || save.isPending}>
            Save
          </Button>
        </form>
      </Modal>
    </>
  );
}
