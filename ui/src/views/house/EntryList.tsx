import { useRef } from "react";
import { NavLink } from "react-router";

import { Button } from "../../parts/Button";
import { useNotify } from "../../parts/Toasts";
import type { EntryRow } from "./api";
import type { Data, Kind } from "./schema";

const PLACES: Record<Kind, { at: string; title: string }> = {
  line: { at: "/lines", title: "Lines" },
  destination: { at: "/destinations", title: "Destinations" },
};

interface EntryListProps {
  kind: Kind;
  rows: EntryRow[];
  onImport: (data: Data) => void;
}

/** All lines, or all destinations, with how many props are on each. */
export function EntryList({ kind, rows, onImport }: EntryListProps) {
  const file = useRef<HTMLInputElement>(null);
  const notify = useNotify();
  const { at, title } = PLACES[kind];
  const read = async (chosen: File | undefined) => {
    if (!chosen) return;
    const data = tableIn(await chosen.text());
    if (data) onImport(data);
    else notify({ title: `${chosen.name}: holds no ${kind}; export one to see how it looks`, isProblem: true });
  };
  const look = ({ isActive }: { isActive: boolean }) =>
    `block border-l-2 px-3 py-1.5 ${isActive ? "border-mark bg-mark-tint" : "border-transparent hover:bg-paper"}`;
  return (
    <nav aria-label={title} className="flex w-56 shrink-0 flex-col border-r border-rule-strong bg-sheet">
      <div className="flex items-center justify-between px-3 py-2">
        <h2 className="font-semibold">{title}</h2>
        <Button onClick={() => file.current?.click()} title="a JSON file, as Export writes it">
          Import…
        </Button>
        <input
          ref={file}
          type="file"
          accept=".json,application/json"
          aria-label={`Import a ${kind}`}
          className="hidden"
          onChange={(event) => {
            void read(event.target.files?.[0]);
            event.target.value = "";
          }}
        />
      </div>
      <div className="min-h-0 grow overflow-auto pb-2">
        {kind === "line" && (
          <NavLink to="/lines/rules" className={look}>
            <div className="font-medium">Rules for new props</div>
            <div className="text-sm text-quiet">by name or folder</div>
          </NavLink>
        )}
        {rows.map((row) => (
          <NavLink key={row.name} to={`${at}/${row.name}`} className={look}>
            <div className="font-medium" title={row.title}>
              {row.title}
            </div>
            <div className="figure text-sm text-quiet">
              {row.name}
              {row.number > 0 && ` · v${row.number}`}
              {row.users > 0 && ` · ${row.users} ${row.users === 1 ? "prop" : "props"}`}
              {row.stale > 0 && <span className="text-warning"> · {row.stale} stale</span>}
            </div>
          </NavLink>
        ))}
      </div>
    </nav>
  );
}

/** The table that a JSON text holds; undefined where it holds none. */
function tableIn(text: string): Data | undefined {
  try {
    const data: unknown = JSON.parse(text);
    return typeof data === "object" && data !== null && !Array.isArray(data) ? (data as Data) : undefined;
  } catch {
    return undefined;
  }
}
