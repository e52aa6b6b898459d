import { Link } from "react-router";

import type { Shipment } from "../../api/client";
import type { ActiveJob } from "../../app/activity";
import { bytes, count, plural, seconds } from "../../parts/format";
import { Progress } from "../../parts/Progress";
import { SeverityShape } from "../../parts/Severity";
import { Folded } from "./Folded";

type Item = Shipment["items"][number];

const STATES = {
  waiting: { word: "waiting", shape: "info" },
  shipped: { word: "shipped", shape: "fine" },
  held: { word: "held", shape: "stop" },
  failed: { word: "failed", shape: "stop" },
  cancelled: { word: "cancelled", shape: "info" },
} as const;

/** A prop of a shipment: its progress, levels, files and findings. */
export function ItemRow({ item, job, shipment }: { item: Item; job: ActiveJob | undefined; shipment: number }) {
  const { word, shape } = STATES[item.state];
  const important = item.findings.filter((finding) => finding.severity !== "info");
  return (
    <tr className="border-b border-rule align-top">
      <td className="min-w-52 py-2 pr-4 font-semibold">
        <span className="flex items-center gap-2">
          {item.picture && <img src={item.picture} alt="" className="size-8 object-contain" />}
          <Link to={`/props/${item.prop}`} className="max-w-44 truncate hover:underline" title={item.name}>
            {item.name}
          </Link>
        </span>
        {item.prop_name !== item.name && <div className="text-sm font-normal text-quiet">{item.prop_name}</div>}
      </td>
      <td className="w-32 py-2 pr-4">
        {job && item.state === "waiting" ? (
          <div className="text-sm text-quiet">
            {job.state === "running" ? job.doing || "starting" : "waiting"}
            <Progress label={`progress of ${item.name}`} fraction={job.fraction} />
          </div>
        ) : (
          <span className="inline-flex items-center gap-1.5">
            <SeverityShape severity={shape} />
            {word}
          </span>
        )}
      </td>
      <td className="figure py-2 pr-4 whitespace-nowrap">
        {item.levels.length > 0 && (
          <span title={item.levels.map((level) => `${level.name}: ${count(level.triangles)} tris`).join("\n")}>
            {item.levels.length}{" "}
            <span className="text-quiet">
              · {count(item.levels[0]?.triangles ?? 0)} → {count(item.levels.at(-1)?.triangles ?? 0)} tris
            </span>
          </span>
        )}
      </td>
      <td className="py-2 pr-4">
        <Folded files={item.files} draw={(files) => <FileGrid item={item} files={files} />} />
      </td>
      <td className="figure py-2 pr-4 whitespace-nowrap">
        {item.seconds != null && item.state !== "failed" && seconds(item.seconds)}
      </td>
      <td className="py-2 pr-4 whitespace-nowrap">
        {item.is_seen && (
          <Link
            to={`/shipments/${shipment}/items/${item.id}`}
            className="text-mark underline-offset-2 hover:underline"
            aria-label={`Rehearsal of ${item.name}`}
          >
            Read back
          </Link>
        )}
      </td>
      <td className="max-w-100 min-w-64 py-2">
        {item.error && <span className="text-stop">{item.error}</span>}
        {!item.error && important.length === 0 && item.state === "shipped" && (
          <span className="text-quiet">no warnings</span>
        )}
        {item.waivers.map((waiver) => (
          <div key={waiver.code} className="text-warning">
            {waiver.code.replaceAll("-", " ")} waived by {waiver.by}: {waiver.reason}
          </div>
        ))}
        {!item.error &&
          important.slice(0, 3).map((finding, at) => (
            <div key={at} className="flex items-baseline gap-1.5">
              <SeverityShape severity={finding.severity} />
              <span>{finding.message}</span>
            </div>
          ))}
        {important.length > 3 && <span className="text-quiet">and {plural(important.length - 3, "more finding")}</span>}
      </td>
    </tr>
  );
}

function FileGrid({ item, files }: { item: Item; files: Item["files"] }) {
  return (
    <div className="figure grid grid-cols-[minmax(8rem,1fr)_auto_auto] gap-x-4">
      {files.map((file) => (
        <div key={file.path} className="contents">
          <a
            href={`/api/shipments/items/${item.id}/${file.path.split("/").map(encodeURIComponent).join("/")}`}
            download
            className="truncate text-mark underline-offset-2 hover:underline"
            aria-label={`Download ${file.path}`}
            title={file.path}
          >
            {file.path}
          </a>
          <span className="text-quiet" title={`SHA-256 ${file.sha256}`}>
            {file.sha256.slice(0, 10)}
          </span>
          <span className="text-right whitespace-nowrap">{bytes(file.bytes)}</span>
        </div>
      ))}
    </div>
  );
}
