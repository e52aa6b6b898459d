import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useDropzone } from "react-dropzone";
import { useNavigate } from "react-router";

import { projectQuery, propsQuery } from "../../api/queries";
import { useShortcuts } from "../../app/shortcuts";
import { Button } from "../../parts/Button";
import { plural } from "../../parts/format";
import { EmptyState, Loading } from "../../parts/Notes";
import { Progress } from "../../parts/Progress";
import { Board } from "./Board";
import { DensityDialog } from "./DensityDialog";
import { useGrowRock } from "./rock";
import { SheetDialog } from "./SheetDialog";
import { Toolbar } from "./Toolbar";
import { useBoard } from "./useBoard";
import { useBoardWays } from "./useBoardWays";
import { type Upload, useUpload } from "./useUpload";

/** The board of all props. */
export function YardView() {
  const navigate = useNavigate();
  const growRock = useGrowRock();
  const { data: project } = useQuery(projectQuery);
  const { data: props, error } = useQuery(propsQuery);
  const board = useBoard(props);
  const { table, counts, selected } = board;
  const { remove, buildStale } = useBoardWays({ onRemoved: board.unselect });
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
  const ship = () => void navigate(`/shipments/new?ids=${selected.join(",")}`);
  useShortcuts({
    "/": () => searchRef.current?.focus(),
    "mod+a": () => table.toggleAllRowsSelected(true),
    delete: () => selected.length && remove(selected),
    backspace: () => selected.length && remove(selected),
  });

  return (
    <div {...getRootProps({ className: "relative flex h-full flex-col bg-sheet" })}>
      <input {...getInputProps({ "aria-label": "Add props" })} />
      <Toolbar
        total={counts.all}
        shown={board.shown}
        selected={selected.length}
        stale={props?.filter((prop) => prop.is_stale).length ?? 0}
        search={board.search}
        filter={board.filter}
        counts={counts}
        searchRef={searchRef}
        onSearch={board.setSearch}
        onFilter={board.setFilter}
        onAdd={open}
        onShip={ship}
        onRemove={() => remove(selected)}
        onShareSheet={() => setSharing(selected)}
        onDensity={() => setLeveling(selected)}
        onBuildStale={buildStale}
      />
      {upload && <Sending upload={upload} onCancel={cancel} />}
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
        ) : board.shown === 0 ? (
          <EmptyState title="No prop matches">
            <Button onClick={() => board.find("")}>Show all {counts.all}</Button>
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
            board.unselect();
            board.find(name);
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

/** How far the files that were dropped are sent. */
function Sending({ upload: { files, fraction, waiting }, onCancel }: { upload: Upload; onCancel: () => void }) {
  return (
    <div className="flex items-center gap-3 border-b border-rule px-4 py-1.5">
      <span className="figure whitespace-nowrap">
        sending {plural(files, "file")} · {Math.round(fraction * 100)} %{waiting > 0 && ` · ${waiting} more wait`}
      </span>
      <Progress label="upload" fraction={fraction} />
      <Button onClick={onCancel}>Cancel</Button>
    </div>
  );
}
