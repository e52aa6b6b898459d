import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import {
  type RowSelectionState,
  type SortingState,
  getCoreRowModel,
  getSortedRowModel,
  useReactTable,
} from "@tanstack/react-table";
import { useMemo, useRef, useState } from "react";
import { useDropzone } from "react-dropzone";
import { useNavigate } from "react-router";

import { client, take } from "../../api/client";
import { keys, projectQuery, propsQuery } from "../../api/queries";
import { useShortcuts } from "../../app/shortcuts";
import { Button } from "../../parts/Button";
import { plural } from "../../parts/format";
import { EmptyState, Loading } from "../../parts/Notes";
import { Progress } from "../../parts/Progress";
import { useNotify } from "../../parts/Toasts";
import { Board } from "./Board";
import { COLUMNS } from "./columns";
import { DensityDialog } from "./DensityDialog";
import { useGrowRock } from "./rock";
import { SheetDialog } from "./SheetDialog";
import { type Filter, Toolbar } from "./Toolbar";
import { useUpload } from "./useUpload";

/** The board of all props. */
export function YardView() {
  const navigate = useNavigate();
  const notify = useNotify();
  const queries = useQueryClient();
  const growRock = useGrowRock();
  const { data: project } = useQuery(projectQuery);
  const { data: props, error } = useQuery(propsQuery);
  const [search, setSearch] = useState("");
  const [filter, setFilter] = useState<Filter>("all");
  const [sorting, setSorting] = useState<SortingState>([]);
  const [selection, setSelection] = useState<RowSelectionState>({});
  const [sharing, setSharing] = useState<number[] | null>(null);
  const [leveling, setLeveling] = useState<number[] | null>(null);
  const searchRef = useRef<HTMLInputElement>(null);
  const { upload, send, cancel } = useUpload();
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    noClick: true,
    noKeyboard: true,
    onDrop: (files) =>
      void send(
        files.map((file) => ({
          file,
          path: ((file as File & { path?: string }).path ?? file.name).replace(/^\.?\//, ""),
        })),
      ),
  });

  const counts = useMemo(() => {
    const result = { all: 0, ready: 0, warning: 0, held: 0, failed: 0, cancelled: 0, working: 0 };
    for (const prop of props ?? []) {
      result.all += 1;
      result[prop.readiness] += 1;
    }
    return result;
  }, [props]);
  const shown = useMemo(() => {
    const words = search.toLowerCase().split(/\s+/).filter(Boolean);
    return (props ?? []).filter(
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
  const selected = table.getSelectedRowModel().rows.map((row) => row.original.id);

  const restore = useMutation({
    mutationFn: async (ids: number[]) => take(await client.POST("/api/props/restore", { body: { ids } })),
    onSuccess: () => void queries.invalidateQueries({ queryKey: keys.props }),
    onError: (problem) => notify({ title: problem.message, isProblem: true }),
  });
  const buildStale = useMutation({
    mutationFn: async () => take(await client.POST("/api/lines/build-stale")),
    onSuccess: () => void queries.invalidateQueries({ queryKey: keys.props }),
    onError: (problem) => notify({ title: problem.message, isProblem: true }),
  });
  const remove = useMutation({
    mutationFn: async (ids: number[]) => take(await client.POST("/api/props/remove", { body: { ids } })),
    onSuccess: ({ count: number }, ids) => {
      setSelection({});
      void queries.invalidateQueries({ queryKey: keys.props });
      notify({
        title: `${plural(number, "prop")} taken off the board`,
        action: { label: "Undo", run: () => restore.mutate(ids) },
      });
    },
    onError: (problem) => notify({ title: problem.message, isProblem: true }),
  });
  const ship = () => void navigate(`/shipments/new?ids=${selected.join(",")}`);
  useShortcuts({
    "/": () => searchRef.current?.focus(),
    "mod+a": () => table.toggleAllRowsSelected(true),
    delete: () => selected.length && remove.mutate(selected),
    backspace: () => selected.length && remove.mutate(selected),
  });

  return (
    <div {...getRootProps({ className: "relative flex h-full flex-col bg-sheet" })}>
      <input {...getInputProps({ "aria-label": "Add props" })} />
      <Toolbar
        total={counts.all}
        shown={shown.length}
        selected={selected.length}
        stale={props?.filter((prop) => prop.is_stale).length ?? 0}
        search={search}
        filter={filter}
        counts={counts}
        searchRef={searchRef}
        onSearch={setSearch}
        onFilter={setFilter}
        onAdd={open}
        onShip={ship}
        onRemove={() => remove.mutate(selected)}
        onShareSheet={() => setSharing(selected)}
        onDensity={() => setLeveling(selected)}
        onBuildStale={() => buildStale.mutate()}
      />
      {upload && (
        <div className="flex items-center gap-3 border-b border-rule px-4 py-1.5">
          <span className="figure whitespace-nowrap">
            sending {plural(upload.files, "file")} · {Math.round(upload.fraction * 100)} %
            {upload.waiting > 0 && ` · ${upload.waiting} more wait`}
          </span>
          <Progress label="upload" fraction={upload.fraction} />
          <Button onClick={cancel}>Cancel</Button>
        </div>
      )}
      <div className="min-h-0 grow">
        {error ? (
          <EmptyState title="The board cannot be read">{error.message}</EmptyState>
        ) : !props ? (
          <Loading what="the board" />
        ) : props.length === 0 ? (
          <EmptyState title="No props yet">
            Drop GLB, glTF, OBJ, USD, PLY or STL files here, together with their textures and material libraries, or a
            zip of them.
            <span className="mt-3 flex justify-center gap-2">
              <Button kind="primary" onClick={open}>
                Add props…
              </Button>
              {project?.has_demo && <Button onClick={growRock}>Grow the demo rock</Button>}
            </span>
          </EmptyState>
        ) : shown.length === 0 ? (
          <EmptyState title="No prop matches">
            <Button
              onClick={() => {
                setSearch("");
                setFilter("all");
              }}
            >
              Show all {counts.all}
            </Button>
          </EmptyState>
        ) : (
          <Board table={table} onOpen={(id) => void navigate(`/props/${id}`)} />
        )}
      </div>
      {leveling && <DensityDialog ids={leveling} onClose={() => setLeveling(null)} />}
      {sharing && (
        <SheetDialog
          ids={sharing}
          onClose={() => setSharing(null)}
          onShow={(name) => {
            setSharing(null);
            setSelection({});
            setFilter("all");
            setSearch(name);
          }}
        />
      )}
      {isDragActive && (
        <div className="pointer-events-none absolute inset-3 grid place-items-center rounded border-2 border-dashed border-mark bg-mark-tint/90 text-lg font-semibold text-mark">
          Drop props with their textures and material libraries
        </div>
      )}
    </div>
  );
}
