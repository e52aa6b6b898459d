import {
  type RowSelectionState,
  type SortingState,
  getCoreRowModel,
  getSortedRowModel,
  useReactTable,
} from "@tanstack/react-table";
import { useMemo, useState } from "react";

import type { PropRow } from "../../api/client";
import { COLUMNS } from "./columns";
import type { Filter } from "./Toolbar";

const NO_PROPS: PropRow[] = [];

/** The rows of the board: found, filtered, sorted and selected. */
export function useBoard(props: PropRow[] = NO_PROPS) {
  const [search, setSearch] = useState("");
  const [filter, setFilter] = useState<Filter>("all");
  const [sorting, setSorting] = useState<SortingState>([]);
  const [selection, setSelection] = useState<RowSelectionState>({});
  const counts = useMemo(() => {
    const result = { all: 0, ready: 0, warning: 0, held: 0, failed: 0, cancelled: 0, working: 0 };
    for (const prop of props) {
      result.all += 1;
      result[prop.readiness] += 1;
    }
    return result;
  }, [props]);
  const shown = useMemo(() => {
    const words = search.toLowerCase().split(/\s+/).filter(Boolean);
    return props.filter(
      (prop) =>
        (filter === "all" || prop.readiness === filter) &&
        words.every((word) => `${prop.name} ${prop.source_name} ${prop.line}`.toLowerCase().includes(word)),
    );
  }, [props, search, filter]);
  const table = useReactTable({
    data: shown,
    columns: COLUMNS,
    state: { sorting, rowSelection: selection },
    getRowId: (prop) => String(prop.id),
    onSortingChange: setSorting,
    onRowSelectionChange: setSelection,
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
  });
  return {
    table,
    counts,
    shown: shown.length,
    /** Those that are selected and in sight, in their order. */
    selected: table.getSelectedRowModel().rows.map((row) => row.original.id),
    unselect: () => setSelection({}),
    search,
    setSearch,
    filter,
    setFilter,
    /** All props again that a search finds. */
    find: (words: string) => {
      setFilter("all");
      setSearch(words);
    },
  };
}
