import { Button } from "../../parts/Button";
import { Modal } from "../../parts/Modal";
import type { Dispute } from "./useDecisions";

/** The same values decided in two browsers: both are shown, and one is chosen. */
export function DisputeDialog({ dispute }: { dispute: Dispute | null }) {
  if (!dispute) return null;
  const { rows, keepTheirs, useMine } = dispute;
  return (
    <Modal
      open
      onOpenChange={(open) => !open && keepTheirs()}
      title="Decided in another browser meanwhile"
      description="Your decision was not taken. Choose which one holds."
    >
      <table className="w-full text-left">
        <thead className="text-quiet">
          <tr>
            <th className="py-1 pr-4 font-normal">Setting</th>
            <th className="py-1 pr-4 font-normal">Theirs</th>
            <th className="py-1 font-normal">Yours</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(({ key, label, theirs, yours }) => (
            <tr key={key} className="border-t border-rule align-top">
              <th scope="row" className="py-1.5 pr-4 font-medium">
                {label}
              </th>
              <td className="figure py-1.5 pr-4 break-words">{theirs}</td>
              <td className="figure py-1.5 break-words">{yours}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={useMine}>Use mine</Button>
        <Button kind="primary" onClick={keepTheirs}>
          Keep theirs
        </Button>
      </div>
    </Modal>
  );
}
