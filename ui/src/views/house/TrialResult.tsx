import { bytes, change, count, inOneUnit, length } from "../../parts/format";
import { SeverityShape } from "../../parts/Severity";
import type { TrialRow } from "./api";

/** One prop before and after: pictures, counts, deviations, bytes, findings that came or went, and the files. */
export function TrialResult({ row }: { row: TrialRow }) {
  const { before, after } = row;
  if (row.state !== "done" || !after)
    return (
      <p className={`mt-3 ${row.state === "failed" ? "text-stop" : "text-quiet"}`}>
        {row.name}: {row.state === "failed" ? row.error : row.state === "cancelled" ? "called off" : "waiting"}
      </p>
    );
  const said = new Set(before?.findings.map(({ message }) => message));
  const says = new Set(after.findings.map(({ message }) => message));
  const came = after.findings.filter(({ message }) => !said.has(message));
  const went = before?.findings.filter(({ message }) => !says.has(message)) ?? [];
  const rows = Math.max(before?.levels.length ?? 0, after.levels.length);
  return (
    <section aria-label={`Trial of ${row.name}`} className="mt-3 border-t border-rule-strong pt-2">
      <div className="flex items-center gap-2">
        {before?.picture && <img src={before.picture} alt="before" className="size-16 object-contain" />}
        {before?.picture && after.picture && <span className="text-quiet">→</span>}
        {after.picture && <img src={after.picture} alt="after" className="size-16 object-contain" />}
        <div>
          <div className="font-semibold">{row.name}</div>
          <div className={after.status === "held" ? "text-stop" : "text-quiet"}>
            {after.status === "held" ? "held back" : "would ship"}
            {before && after.status === "shipped" && before.bytes > 0 && (
              <span className="figure"> · {inOneUnit(before.bytes, after.bytes)}</span>
            )}
          </div>
        </div>
      </div>
      <table className="mt-1 w-full text-sm">
        <thead className="text-left text-quiet">
          <tr>
            <th className="font-normal">level</th>
            <th className="text-right font-normal">triangles</th>
            <th className="text-right font-normal">vertices</th>
            <th className="text-right font-normal">deviation</th>
          </tr>
        </thead>
        <tbody className="figure">
          {Array.from({ length: rows }, (_, k) => (
            <LevelRow key={k} index={k} before={before?.levels[k]} after={after.levels[k]} />
          ))}
        </tbody>
      </table>
      {[
        ...came.map((finding) => ({ finding, isNew: true })),
        ...went.map((finding) => ({ finding, isNew: false })),
      ].map(({ finding, isNew }) => (
        <p key={`${isNew} ${finding.message}`} className="flex items-baseline gap-1.5 text-sm">
          <SeverityShape severity={isNew ? finding.severity : "fine"} />
          <span>
            {isNew ? "" : "gone: "}
            {finding.message}
          </span>
        </p>
      ))}
      {row.files.length > 0 && (
        <ul className="mt-1 text-sm">
          {row.files.map((file) => (
            <li key={file.path} className="flex justify-between gap-2">
              <a
                href={file.address}
                download={file.path.split("/").at(-1)}
                className="figure truncate text-mark hover:underline"
              >
                {file.path}
              </a>
              <span className="figure shrink-0 text-quiet" title={`SHA-256 ${file.sha256}`}>
                {bytes(file.bytes)} · {file.sha256.slice(0, 8)}
              </span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

type Level = NonNullable<TrialRow["after"]>["levels"][number];

function LevelRow({ index, before, after }: { index: number; before?: Level | undefined; after?: Level | undefined }) {
  return (
    <tr title={after?.name}>
      <td className="font-sans">LOD{index}</td>
      <Compared before={before?.triangles} after={after?.triangles} words={count} />
      <Compared before={before?.vertices} after={after?.vertices} words={count} />
      <Compared before={before?.deviation} after={after?.deviation} words={length} />
    </tr>
  );
}

function Compared({
  before,
  after,
  words,
}: {
  before?: number | undefined;
  after?: number | undefined;
  words: (value: number) => string;
}) {
  if (after === undefined) return <td className="text-right text-quiet">gone</td>;
  const differs = before !== undefined && words(before) !== words(after);
  return (
    <td className="text-right" title={differs ? `before ${words(before)}` : undefined}>
      {words(after)}
      {differs && before > 0 && <span className="text-quiet"> {change(before, after)}</span>}
    </td>
  );
}
