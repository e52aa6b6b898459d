import { flexRender, type Table } from "@tanstack/react-table";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, useRef } from "react";

import type { PropRow } from "../../api/client";
import { useActivity } from "../../app/activity";
import { Checkbox } from "../../parts/Checkbox";
import { RowProgress } from "./columns";

interface BoardProps {
  table: Table<PropRow>;
  onOpen: (id: number) => void;
}

const ROW_HEIGHT = 54;
const SIGNS = { asc: " ↑", desc: " ↓" };

/** The dense table: only the rows in sight are drawn; arrow keys move, Space selects, Enter opens. */
export function Board({ table, onOpen }: BoardProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const rows = table.getRowModel().rows;
  const { jobs } = useActivity();
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_HEIGHT,
    overscan: 8,
  });
  const columns = `44px ${table
    .getVisibleLeafColumns()
    .map((c) => `minmax(${c.getSize() * 0.72}px, ${c.getSize()}fr)`)
    .join(" ")}`;

  const onKey = (event: KeyboardEvent<HTMLDivElement>, index: number) => {
    const row = rows[index];
    if (!row || event.target !== event.currentTarget) return;
    if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      const next = Math.min(Math.max(index + (event.key === "ArrowDown" ? 1 : -1), 0), rows.length - 1);
      virtual.scrollToIndex(next);
      requestAnimationFrame(() => scroller.current?.querySelector<HTMLElement>(`[data-index="${next}"]`)?.focus());
    } else if (event.key === " ") row.toggleSelected();
    else if (event.key === "Enter") onOpen(row.original.id);
    else return;
    event.preventDefault();
  };

  const all = table.getIsAllRowsSelected();
  return (
    <div
      ref={scroller}
      className="h-full overflow-auto"
      role="table"
      aria-label="Props"
      aria-rowcount={rows.length + 1}
    >
      <div role="rowgroup" className="sticky top-0 z-10 border-b border-rule-strong bg-sheet">
        {table.getHeaderGroups().map((group) => (
          <div
            key={group.id}
            role="row"
            className="grid min-w-[1080px] items-center px-4 text-sm text-quiet"
            style={{ gridTemplateColumns: columns }}
          >
            <div role="columnheader">
              <Checkbox
                label="Select all props shown"
                checked={all || (table.getIsSomeRowsSelected() ? "indeterminate" : false)}
                onChange={() => table.toggleAllRowsSelected(!all)}
              />
            </div>
            {group.headers.map((header) => {
              const sorted = header.column.getIsSorted();
              return (
                <div
                  key={header.id}
                  role="columnheader"
                  aria-sort={sorted ? (sorted === "asc" ? "ascending" : "descending") : "none"}
                >
                  <button
                    type="button"
                    onClick={header.column.getToggleSortingHandler()}
                    className="h-8 hover:text-ink"
                  >
                    {flexRender(header.column.columnDef.header, header.getContext())}
                    {sorted ? SIGNS[sorted] : ""}
                  </button>
                </div>
              );
            })}
          </div>
        ))}
      </div>
      <div role="rowgroup" className="relative min-w-[1080px]" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map((item) => {
          const row = rows[item.index];
          if (!row) return null;
          const job = jobs.find((active) => active.kind === "build" && active.subject === row.original.id);
          const isSelected = row.getIsSelected();
          return (
            <div
              key={row.id}
              role="row"
              tabIndex={0}
              data-index={item.index}
              aria-rowindex={item.index + 2}
              aria-selected={isSelected}
              onKeyDown={(event) => onKey(event, item.index)}
              onDoubleClick={() => onOpen(row.original.id)}
              className={`absolute inset-x-0 grid items-center border-b border-rule px-4 -outline-offset-2 ${isSelected ? "bg-mark-tint" : "hover:bg-paper"}`}
              style={{ gridTemplateColumns: columns, height: ROW_HEIGHT, transform: `translateY(${item.start}px)` }}
            >
              <div role="cell">
                <Checkbox
                  label={`Select ${row.original.name}`}
                  checked={isSelected}
                  onChange={() => row.toggleSelected()}
                />
              </div>
              {row.getVisibleCells().map((cell) => (
                <div role="cell" key={cell.id} className="min-w-0 pr-3">
                  {cell.column.id === "name" ? (
                    <button
                      type="button"
                      className="w-full text-left"
                      onClick={() => onOpen(row.original.id)}
                      tabIndex={-1}
                    >
                      {flexRender(cell.column.columnDef.cell, cell.getContext())}
                    </button>
                  ) : (
                    flexRender(cell.column.columnDef.cell, cell.getContext())
                  )}
                </div>
              ))}
              {job?.state === "running" && <RowProgress fraction={job.fraction} doing={job.doing} />}
            </div>
          );
        })}
      </div>
    </div>
  );
}
