import { useEffect, useMemo, useRef, useState } from "react";

import type { PropDetail } from "../../api/client";
import { Button } from "../../parts/Button";
import { Checkbox } from "../../parts/Checkbox";
import { count, plural } from "../../parts/format";
import type { Decide, Settings } from "../bench";
import { shipByHand, useSplit } from "./useSource";
import { Heading } from "../../parts/Heading";

interface SourcePartsProps {
  prop: PropDetail;
  selected: string | null;
  onSelect: (path: string | null) => void;
  decide: Decide;
}

/** What the source holds, what of it ships, and the props that it gives. */
export function SourceParts({ prop, selected, onSelect, decide }: SourcePartsProps) {
  const [search, setSearch] = useState("");
  const [kind, setKind] = useState("all");
  const settings = prop.settings.source;
  const isRead = prop.facts.source != null;
  const bystanders = prop.facts.source?.bystanders ?? [];
  const ships = prop.parts.filter((part) => part.ships);
  const word = search.toLowerCase();
  const parts = useMemo(
    () =>
      prop.parts.filter(
        (part) =>
          part.path.toLowerCase().includes(word) && (kind === "all" || kind === (part.ships ? "ships" : "stays")),
      ),
    [prop.parts, word, kind],
  );
  const others = kind === "ships" ? [] : bystanders.filter((b) => b.path.toLowerCase().includes(word));
  const row = useRef<HTMLTableRowElement>(null);
  useEffect(() => {
    // It may answer with a promise, which is no way to clean up.
    void row.current?.scrollIntoView({ block: "nearest" });
  }, [selected]);
  const toggle = (path: string, on: boolean) => decide("source", shipByHand(prop, path, on));
  return (
    <div className="flex h-full">
      <div className="flex min-w-0 grow flex-col border-r border-rule">
        <Heading
          question="What of the source ships?"
          reading={
            isRead
              ? `${ships.length} of ${plural(prop.parts.length, "part")}${bystanders.length ? `; ${plural(bystanders.length, "thing")} without faces` : ""}. A click in the view or on a row takes a part in hand.`
              : "It is told once the prop is built."
          }
        />
        <div className="flex gap-2 px-4 py-1">
          <input
            aria-label="Search parts"
            placeholder="search names and paths"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
            className="h-6 w-48 rounded border border-rule-control bg-sheet px-2 placeholder:text-quiet"
          />
          {(["all", "ships", "stays"] as const).map((value) => (
            <button
              key={value}
              type="button"
              aria-pressed={kind === value}
              onClick={() => setKind(value)}
              className={`px-1.5 ${kind === value ? "font-semibold text-ink underline" : "text-quiet hover:text-ink"}`}
            >
              {value === "all" ? "all" : value === "ships" ? "ships" : "excluded"}
            </button>
          ))}
        </div>
        <div
          className="min-h-0 grow overflow-auto px-4 pb-2"
          role="region"
          aria-label="Parts of the source"
          tabIndex={0}
        >
          <table className="w-full">
            <tbody>
              {parts.slice(0, 500).map((part) => (
                <tr
                  key={part.path}
                  ref={part.path === selected ? row : null}
                  aria-selected={part.path === selected}
                  className={`${part.path === selected ? "bg-mark-tint" : "hover:bg-paper"} ${part.ships ? "" : "text-quiet"}`}
                  onClick={() => onSelect(part.path === selected ? null : part.path)}
                >
                  <td className="w-6 py-0.5" onClick={(event) => event.stopPropagation()}>
                    <Checkbox
                      label={`ship ${part.path}`}
                      checked={part.ships}
                      onChange={(on) => toggle(part.path, on)}
                    />
                  </td>
                  <td className="max-w-0 truncate" title={part.path}>
                    {part.path}
                  </td>
                  <td className="w-44 truncate text-sm text-quiet" title={part.reason}>
                    {part.reason}
                  </td>
                  <td className="figure w-20 text-right">{count(part.triangles)}</td>
                </tr>
              ))}
              {others.slice(0, 200).map((other) => (
                <tr key={`${other.kind} ${other.path}`} className="text-quiet">
                  <td />
                  <td className="max-w-0 truncate" title={other.path}>
                    {other.path}
                  </td>
                  <td className="w-44 text-sm">{other.kind}, no faces</td>
                  <td className="figure w-20 text-right">–</td>
                </tr>
              ))}
            </tbody>
          </table>
          {isRead && !parts.length && !others.length && <p className="py-3 text-quiet">nothing here fits the search</p>}
          {parts.length > 500 && (
            <p className="py-2 text-quiet">{count(parts.length - 500)} more; search to narrow the list</p>
          )}
        </div>
      </div>
      <Outcome prop={prop} settings={settings} />
    </div>
  );
}

/** What a split would make; after a replacement of the source, what has changed. */
function Outcome({ prop, settings }: { prop: PropDetail; settings: Settings["source"] }) {
  const split = useSplit(prop.id);
  const changes = prop.source_changes;
  const isSplit = settings.split !== "file" && settings.prop == null;
  if (changes && !isSplit) {
    return (
      <div className="flex w-[44%] shrink-0 flex-col">
        <Heading
          question="What did the new source change?"
          reading={`${changes.before} → ${changes.after}. Settings and marks were carried over; what no longer fits is a finding.`}
        />
        <div
          className="min-h-0 grow overflow-auto px-4 pb-2"
          role="region"
          aria-label="Changes of the source"
          tabIndex={0}
        >
          {changes.rows.length === 0 && (
            <p className="py-2 text-quiet">nothing that is counted: parts, materials and textures are the same</p>
          )}
          <table className="w-full">
            <tbody>
              {changes.rows.map((row) => (
                <tr key={row.what}>
                  <td className="py-0.5">{row.what}</td>
                  <td className="figure text-right text-quiet">{row.before}</td>
                  <td className="figure pl-2 text-right">→ {row.after}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </div>
    );
  }
  return (
    <div className="flex w-[44%] shrink-0 flex-col">
      <div className="flex items-start justify-between gap-3 pr-10">
        <Heading
          question={isSplit ? "Which props does it give?" : "One prop, one file"}
          reading={
            isSplit
              ? "Nothing is made before you say so."
              : "Choose objects, parents or groups at the left to make several."
          }
        />
        {isSplit && (
          <Button
            kind="mark"
            className="mt-2"
            disabled={!prop.split.length || split.isPending}
            onClick={() => split.mutate()}
          >
            Make {plural(prop.split.length, "prop")}
          </Button>
        )}
      </div>
      <div className="min-h-0 grow overflow-auto px-4 py-1" role="region" aria-label="Props of the split" tabIndex={0}>
        <table className="w-full">
          <tbody>
            {(settings.prop == null ? prop.split : prop.split.filter((row) => row.key === settings.prop)).map((row) => (
              <tr key={row.key || row.name}>
                <td className="figure max-w-0 truncate py-0.5" title={row.file}>
                  {row.file}
                  {row.renamed_from && <span className="font-sans text-sm text-quiet"> from “{row.renamed_from}”</span>}
                </td>
                <td className="w-28 text-right text-sm text-quiet">
                  {plural(row.parts, "part")}
                  {row.instances > 1 && ` · ${row.instances} instances`}
                </td>
                <td className="figure w-24 text-right">{count(row.triangles)} tris</td>
              </tr>
            ))}
          </tbody>
        </table>
        {prop.facts.source != null && !prop.split.length && (
          <p className="py-2 text-quiet">no part ships; take one in at the left</p>
        )}
      </div>
    </div>
  );
}
