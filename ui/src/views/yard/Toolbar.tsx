import type { RefObject } from "react";

import type { Readiness } from "../../api/client";
import { Button } from "../../parts/Button";
import { plural } from "../../parts/format";
import { Segmented } from "../../parts/Segmented";
import { ProjectName } from "./ProjectName";

export type Filter = "all" | Readiness;

interface ToolbarProps {
  total: number;
  shown: number;
  selected: number;
  /** Props whose line was changed since they were built. */
  stale: number;
  search: string;
  filter: Filter;
  counts: Record<Filter, number>;
  searchRef: RefObject<HTMLInputElement | null>;
  onSearch: (text: string) => void;
  onFilter: (filter: Filter) => void;
  onAdd: () => void;
  onShip: () => void;
  onRemove: () => void;
  onShareSheet: () => void;
  onDensity: () => void;
  onBuildStale: () => void;
}

const FILTERS: { value: Filter; label: string }[] = [
  { value: "all", label: "All" },
  { value: "ready", label: "Ready" },
  { value: "warning", label: "Warnings" },
  { value: "held", label: "Held" },
  { value: "failed", label: "Failed" },
  { value: "cancelled", label: "Cancelled" },
  { value: "working", label: "Working" },
];

/** Above the board: search, filter by readiness, what to do with the selected. */
export function Toolbar(props: ToolbarProps) {
  const { total, shown, selected, stale, search, filter, counts, searchRef } = props;
  const filters = FILTERS.filter(({ value }) => value === "all" || counts[value] > 0 || value === filter);
  return (
    <div className="flex flex-wrap items-center gap-3 border-b border-rule px-4 py-2.5">
      <div className="flex items-baseline gap-2">
        <ProjectName />
        <span className="text-quiet">
          {shown === total ? plural(total, "prop") : `${shown} of ${plural(total, "prop")}`}
        </span>
      </div>
      <input
        ref={searchRef}
        type="search"
        value={search}
        onChange={(event) => props.onSearch(event.target.value)}
        aria-label="Search props"
        placeholder="Search by name"
        className="h-7 w-44 rounded border border-rule-control bg-sheet px-2 placeholder:text-quiet"
      />
      <Segmented
        label="Filter by readiness"
        value={filter}
        options={filters.map(({ value, label }) => ({ value, label: `${label} ${counts[value]}` }))}
        onChange={props.onFilter}
      />
      <div className="ml-auto flex items-center gap-2">
        {stale > 0 && (
          <Button kind="mark" onClick={props.onBuildStale} title="their line was changed since they were built">
            Build {stale} stale
          </Button>
        )}
        {selected > 0 && (
          <>
            <span className="text-quiet">{selected} selected</span>
            <Button onClick={props.onDensity} title="the same pixels per metre for all of them">
              Density…
            </Button>
            <Button onClick={props.onShareSheet} title="their textures on one sheet, with one material">
              One sheet…
            </Button>
            <Button onClick={props.onRemove} aria-label="Take off the board" title="take off the board">
              Take off
            </Button>
          </>
        )}
        <Button onClick={props.onAdd}>Add props…</Button>
        <Button
          kind="primary"
          disabled={selected === 0}
          onClick={props.onShip}
          title={selected ? undefined : "select props first"}
        >
          {selected ? `Ship ${selected}…` : "Ship…"}
        </Button>
      </div>
    </div>
  );
}
