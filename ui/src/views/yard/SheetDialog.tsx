import { useMutation, useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";

import { client, type SharedSheet, take } from "../../api/client";
import { sheetQuery } from "../../api/queries";
import { Button } from "../../parts/Button";
import { bytes, count, plural } from "../../parts/format";
import { Modal } from "../../parts/Modal";
import { Progress } from "../../parts/Progress";
import { SelectBox } from "../../parts/SelectBox";
import { NumberField, TextField } from "../../parts/TextField";

type Tiling = "out" | "repeat" | "strip";
type Density = "even" | "painted";

const SIZES = [512, 1024, 2048, 4096, 8192];
const TILINGS: { value: Tiling; label: string }[] = [
  { value: "out", label: "Stay as they are" },
  { value: "repeat", label: "Go in repeated" },
  { value: "strip", label: "Go in as strips over the whole width" },
];
const DENSITIES: { value: Density; label: string }[] = [
  { value: "even", label: "The same everywhere" },
  { value: "painted", label: "As it was painted" },
];

interface SheetDialogProps {
  /** The props that go onto it. */
  ids: number[];
  onClose: () => void;
  /** Show the props that came of it on the board. */
  onShow: (name: string) => void;
}

/** One sheet for several props: ordered, watched while it is made, and what it costs beside what it replaces. */
export function SheetDialog({ ids, onClose, onShow }: SheetDialogProps) {
  const [name, setName] = useState("sheet");
  const [size, setSize] = useState(2048);
  const [padding, setPadding] = useState(8);
  const [tiling, setTiling] = useState<Tiling>("out");
  const [density, setDensity] = useState<Density>("even");
  const [ordered, setOrdered] = useState<number | null>(null);
  const order = useMutation({
    mutationFn: async () =>
      take(await client.POST("/api/sheets", { body: { ids, name, size, padding, tiling, density } })),
    onSuccess: (sheet) => setOrdered(sheet.id),
  });
  const cancel = useMutation({
    mutationFn: async (id: number) =>
      take(await client.POST("/api/sheets/{sheet_id}/cancel", { params: { path: { sheet_id: id } } })),
  });
  const { data: sheet } = useQuery(sheetQuery(ordered));
  const problem = order.error?.message ?? (sheet?.state === "failed" ? sheet.error : null);
  return (
    <Modal
      open
      onOpenChange={onClose}
      title="One sheet for many"
      description={`Textures of ${plural(ids.length, "prop")} on one sheet, with one material. The props stay as they are; new ones come to the board.`}
    >
      {sheet?.state === "done" ? (
        <Made sheet={sheet} onShow={() => onShow(sheet.name)} />
      ) : sheet?.state === "running" ? (
        <div className="space-y-2">
          <Progress label="making the sheet" fraction={sheet.fraction} />
          <div className="flex items-center justify-between">
            <span className="text-quiet">
              {sheet.doing || "waiting"} · {Math.round(100 * sheet.fraction)} %
            </span>
            <Button disabled={cancel.isPending} onClick={() => cancel.mutate(sheet.id)}>
              Cancel
            </Button>
          </div>
        </div>
      ) : (
        <form
          className="space-y-2.5"
          onSubmit={(event) => {
            event.preventDefault();
            order.mutate();
          }}
        >
          <TextField label="Name of the sheet" value={name} onCommit={(text) => setName(text.trim() || "sheet")} />
          <Row label="Size">
            <SelectBox
              label="Size of the sheet"
              className="w-72"
              value={`${size}`}
              options={SIZES.map((pixels) => ({ value: `${pixels}`, label: `${count(pixels)} × ${count(pixels)} px` }))}
              onChange={(value) => setSize(Number(value))}
            />
          </Row>
          <NumberField
            label="Padding"
            unit="px"
            inline
            value={padding}
            limits={{ low: 0, high: 64, whole: true }}
            onCommit={setPadding}
          />
          <Row label="Textures that tile">
            <SelectBox
              label="Textures that tile"
              className="w-72"
              value={tiling}
              options={TILINGS}
              onChange={setTiling}
            />
          </Row>
          <Row label="Density">
            <SelectBox label="Density" className="w-72" value={density} options={DENSITIES} onChange={setDensity} />
          </Row>
          <div className="flex items-center justify-between gap-4 pt-2">
            <p className={problem ? "text-stop" : "text-quiet"} role={problem ? "alert" : undefined}>
              {problem ?? (sheet?.state === "cancelled" ? "Called off." : "")}
            </p>
            <Button kind="primary" type="submit" disabled={order.isPending}>
              Make the sheet
            </Button>
          </div>
        </form>
      )}
    </Modal>
  );
}

function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="flex items-center justify-between gap-2">
      <span className="text-sm text-quiet">{label}</span>
      {children}
    </div>
  );
}

const ROWS: { label: string; value: (costs: NonNullable<SharedSheet["before"]>) => string }[] = [
  { label: "Draw calls of LOD0", value: ({ draw_calls: calls }) => count(calls) },
  { label: "Textures with mips", value: ({ texture_bytes: size }) => bytes(size) },
  { label: "Median density", value: ({ density }) => (density ? `${count(Math.round(density))} px/m` : "–") },
];

/** The sheet that was made, and what it costs. */
function Made({ sheet, onShow }: { sheet: SharedSheet; onShow: () => void }) {
  const { before, after } = sheet;
  return (
    <div className="flex gap-5">
      {sheet.picture && (
        <img src={sheet.picture} alt="Colours of the sheet" className="size-64 shrink-0 border border-rule bg-paper" />
      )}
      <div className="flex min-w-0 grow flex-col justify-between gap-3">
        <table className="w-full">
          <thead className="text-sm text-quiet">
            <tr>
              <th />
              <th className="py-1 text-right font-normal">before</th>
              <th className="py-1 text-right font-normal">after</th>
            </tr>
          </thead>
          <tbody>
            {before &&
              after &&
              ROWS.map(({ label, value }) => (
                <tr key={label} className="border-t border-rule">
                  <th scope="row" className="py-1 text-left font-normal">
                    {label}
                  </th>
                  <td className="figure py-1 text-right whitespace-nowrap">{value(before)}</td>
                  <td className="figure py-1 text-right font-semibold whitespace-nowrap">{value(after)}</td>
                </tr>
              ))}
          </tbody>
        </table>
        {sheet.messages.length > 0 && (
          <ul className="text-sm text-quiet" aria-label="What was found">
            {sheet.messages.map((message) => (
              <li key={message}>{message}</li>
            ))}
          </ul>
        )}
        <div className="text-right">
          <Button kind="primary" onClick={onShow}>
            Show {plural(sheet.props.length, "new prop")}
          </Button>
        </div>
      </div>
    </div>
  );
}
