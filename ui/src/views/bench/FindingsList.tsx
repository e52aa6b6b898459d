import type { Finding } from "../../api/client";
import { hasPlaces, sorted } from "../../api/findings";
import { SeverityShape } from "../../parts/Severity";

interface FindingsProps {
  findings: Finding[];
  shown: Finding | null;
  onShow: (finding: Finding | null) => void;
}

/** What was found; one with places leads the view to them. */
export function FindingsList({ findings, shown, onShow }: FindingsProps) {
  return (
    <section aria-label="Findings" className="mt-3 border-t border-rule-strong pt-3">
      <h2 className="mb-1 flex justify-between font-semibold">
        Findings <span className="figure font-normal text-quiet">{findings.length || ""}</span>
      </h2>
      {findings.length === 0 && (
        <p className="flex items-center gap-2 text-quiet">
          <SeverityShape severity="fine" /> no findings
        </p>
      )}
      <ul>
        {sorted(findings).map((finding) => {
          const places = hasPlaces(finding);
          const isShown = finding === shown;
          return (
            <li key={`${finding.code}-${finding.level}-${finding.message}`}>
              <button
                type="button"
                aria-pressed={isShown}
                onClick={() => onShow(isShown ? null : finding)}
                className={`w-full rounded px-1.5 py-1 text-left ${isShown ? "bg-mark-tint" : "hover:bg-paper"}`}
              >
                <span className="flex items-center gap-2">
                  <SeverityShape severity={finding.severity} />
                  <span className="text-sm text-quiet">
                    {finding.severity} · {finding.code.replaceAll("-", " ")}
                  </span>
                  {places && <span className="ml-auto text-sm text-mark">show</span>}
                </span>
                <span className="block pl-4.5 leading-4.5">{finding.message}</span>
              </button>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
