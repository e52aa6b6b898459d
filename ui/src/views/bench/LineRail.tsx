import { type ReactNode, useEffect, useRef } from "react";

import type { PropDetail } from "../../api/client";
import { SeverityShape } from "../../parts/Severity";
import { severityOf } from "../../api/findings";
import type { Station } from "../../stations/station";

interface LineRailProps {
  prop: PropDetail;
  stations: Station[];
  open: string;
  onOpen: (station: string) => void;
  children: ReactNode;
}

/** The line as a line: a stop a station with its state and summary; the open stop shows its settings in place. */
export function LineRail({ prop, stations, open, onOpen, children }: LineRailProps) {
  // Until it was built once nothing is known of what a station made.
  const isKnown = prop.facts.source != null;
  const stop = useRef<HTMLButtonElement>(null);
  // The settings that closed above it may have been longer than the view.
  useEffect(() => {
    stop.current?.scrollIntoView({ block: "nearest" });
  }, [open]);
  return (
    <ol aria-label="Stations" className="relative">
      <span aria-hidden className="absolute top-4 bottom-4 left-[9px] w-px bg-rule-strong" />
      {stations.map(({ name, title, summary }) => {
        const isOpen = name === open;
        const state = severityOf(name, prop.findings);
        return (
          <li key={name} className="relative">
            <button
              ref={isOpen ? stop : null}
              type="button"
              aria-expanded={isOpen}
              onClick={() => onOpen(name)}
              className="flex h-8 w-full items-center gap-3 rounded text-left hover:bg-paper"
            >
              <span className="z-1 grid size-[19px] shrink-0 place-items-center">
                {isOpen ? (
                  <span className="size-3.5 rounded-full bg-mark ring-3 ring-mark-tint" />
                ) : state === "fine" ? (
                  <span className="size-3 rounded-full bg-ink" />
                ) : (
                  <span className="grid size-[19px] place-items-center bg-sheet">
                    <span className="scale-140">
                      <SeverityShape severity={state} />
                    </span>
                    <span className="sr-only">{state}</span>
                  </span>
                )}
              </span>
              <span className="font-semibold">{title}</span>
              <span className="ml-auto truncate pr-1 text-sm text-quiet">{isKnown && summary(prop)}</span>
            </button>
            {isOpen && (
              <div className="mt-1 mb-3 ml-1.5 rounded border border-rule bg-paper p-2.5 relative z-1">{children}</div>
            )}
          </li>
        );
      })}
    </ol>
  );
}
