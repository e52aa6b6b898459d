import type { Finding, PropDetail } from "../../api/client";
import { SeverityShape } from "../../parts/Severity";
import { hasPlaces } from "../../api/findings";
import { Heading } from "../../parts/Heading";

interface FaultsProps {
  prop: PropDetail;
  shown: Finding | null;
  onShow: (finding: Finding | null) => void;
}

/** What was found, what was repaired, and the answer of the checks after it. */
export function Faults({ prop, shown, onShow }: FaultsProps) {
  const { cleanup } = prop.facts;
  const repaired = new Set(cleanup?.repaired.map(({ code }) => code));
  const mine = prop.findings.filter(
    (finding) => finding.station === "cleanup" && finding.code !== "checked-after-repair",
  );
  const isClean = cleanup?.is_clean ?? false;
  return (
    <div className="flex h-full">
      <div className="w-[38%] shrink-0 border-r border-rule px-4 pt-2">
        <h2 className="font-semibold">Is anything left to clean?</h2>
        {cleanup ? (
          <p className="mt-1 flex items-baseline gap-2">
            <SeverityShape severity={isClean ? "fine" : "warning"} />
            <span>{cleanup.answer}</span>
          </p>
        ) : (
          <p className="mt-2 text-quiet">not built yet</p>
        )}
        <p className="mt-3 text-sm text-quiet">
          All checks ran again after the repair. <kbd className="figure">N</kbd> leads to the next finding,{" "}
          <kbd className="figure">]</kbd> and <kbd className="figure">[</kbd> through its places.
        </p>
      </div>
      <div className="flex min-w-0 grow flex-col">
        <Heading
          question={mine.length || !cleanup ? "What was found" : "Nothing was found"}
          reading={
            mine.length
              ? "Counted before the repair; the places are drawn on the model."
              : cleanup
                ? "No item to clean: the mesh went on as it came, unchanged."
                : "It is told once the prop is built."
          }
        />
        <div className="min-h-0 grow overflow-auto px-4 pb-2" role="region" aria-label="Faults found" tabIndex={0}>
          <table className="w-full">
            <tbody>
              {mine.map((finding) => (
                <tr
                  key={`${finding.code} ${finding.message}`}
                  className={`align-baseline ${finding === shown ? "bg-mark-tint" : "hover:bg-paper"}`}
                >
                  <td className="w-40 py-0.5 pr-2">{finding.code.replaceAll("-", " ")}</td>
                  <td className="w-20">
                    {repaired.has(finding.code) ? (
                      <span className="text-fine">repaired</span>
                    ) : (
                      <span className="text-quiet">left</span>
                    )}
                  </td>
                  <td className="text-quiet">{finding.message}</td>
                  <td className="w-14 pl-2 text-right">
                    {hasPlaces(finding) && (
                      <button
                        type="button"
                        className="text-mark hover:underline"
                        aria-pressed={finding === shown}
                        onClick={() => onShow(finding === shown ? null : finding)}
                      >
                        show
                      </button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </div>
    </div>
  );
}
