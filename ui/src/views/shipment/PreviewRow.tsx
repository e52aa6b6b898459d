import type { PropRow, ShipmentPreview } from "../../api/client";
import { Checkbox } from "../../parts/Checkbox";
import { bytes } from "../../parts/format";
import { ReadinessMark, SeverityShape } from "../../parts/Severity";
import { CHANGES } from "./folder";
import { Folded } from "./Folded";

type Row = ShipmentPreview["rows"][number];

const SINCE = { new: "never shipped", changed: "changed", same: "the same", failed: "cannot be built" } as const;

interface PreviewRowProps {
  prop: PropRow;
  isChosen: boolean;
  row: Row | undefined;
  since: Row["since"] | undefined;
  onToggle: () => void;
}

/** A prop and what it would write. */
export function PreviewRow({ prop, isChosen, row, since, onToggle }: PreviewRowProps) {
  return (
    <tr className={`border-b border-rule align-top ${isChosen ? "" : "text-quiet"}`}>
      <td className="py-2 pr-3">
        <Checkbox label={`Ship ${prop.name}`} checked={isChosen} onChange={onToggle} />
      </td>
      <td className="py-1 pr-4">
        <span className="flex items-center gap-2">
          {prop.picture && <img src={prop.picture} alt="" className="size-8 object-contain" />}
          <span className="max-w-52 truncate" title={prop.name}>
            {prop.name}
          </span>
        </span>
      </td>
      <td className={`py-2 pr-4 whitespace-nowrap ${since === "changed" ? "font-medium text-mark" : "text-quiet"}`}>
        {since ? SINCE[since] : ""}
      </td>
      <td className="py-2 pr-4 whitespace-nowrap">
        <ReadinessMark value={prop.readiness} />
      </td>
      <td className="py-2 pr-4">{row && <Folded files={row.files} draw={(files) => <FileRows files={files} />} />}</td>
      <td className="figure max-w-72 truncate py-2 pr-4 text-sm text-quiet" title={row?.levels.join("\n")}>
        {row && row.levels.length > 1 ? `${row.levels[0]} … ${row.levels.at(-1)}` : row?.levels[0]}
      </td>
      <td className="max-w-80 py-2 text-sm">
        {row?.stops.map((stop) => (
          <div key={`${stop.code}${stop.level}`} className="flex items-baseline gap-1.5 text-stop">
            <SeverityShape severity="stop" />
            {stop.message}
          </div>
        ))}
        {row?.note && !row.stops.length && <span className={row.held ? "text-stop" : "text-quiet"}>{row.note}</span>}
        {row && row.left.length > 0 && <span className="text-warning">leaves {row.left.join(", ")} behind</span>}
      </td>
    </tr>
  );
}

function FileRows({ files }: { files: Row["files"] }) {
  return files.map((file) => (
    <div key={file.path} className="flex items-baseline gap-2 whitespace-nowrap">
      <span className="figure max-w-60 truncate" title={file.path}>
        {file.path}
      </span>
      <span className="figure text-sm text-quiet">{file.bytes === null ? "" : bytes(file.bytes)}</span>
      {file.change && (
        <span
          className={`text-sm ${file.change === "foreign" ? "text-warning" : "text-quiet"}`}
          title={CHANGES[file.change]}
        >
          {CHANGES[file.change].split(/[:,;]/)[0]}
        </span>
      )}
    </div>
  ));
}
