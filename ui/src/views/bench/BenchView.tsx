import { useMutation, useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Group, Panel, Separator } from "react-resizable-panels";
import { Link, useNavigate, useParams } from "react-router";

import { client, type Finding, type Project, type PropDetail, take } from "../../api/client";
import { projectQuery, propQuery } from "../../api/queries";
import { useActivity } from "../../app/activity";
import { useShortcuts } from "../../app/shortcuts";
import { Guarded } from "../../parts/Guarded";
import { EmptyState, Loading } from "../../parts/Notes";
import { SelectBox } from "../../parts/SelectBox";
import { type Bench, BenchContext, NOTHING_SHOWN, places, type Shown } from "../../stations/bench";
import { STATIONS } from "../../stations/registry";
import type { Station } from "../../stations/station";
import { DRAW_MODES, type DrawMode, useModel } from "../../viewport/model";
import { EyeStore } from "../../viewport/viewState";
import { BenchHeader } from "./BenchHeader";
import { BenchStage } from "./BenchStage";
import { DisputeDialog } from "./DisputeDialog";
import { EvidencePanel } from "./EvidencePanel";
import { FindingsList } from "./FindingsList";
import { Waivers } from "./Waivers";
import { LineRail } from "./LineRail";
import { useDecisions } from "./useDecisions";
import { useFindingShown } from "./useFindingShown";

/** One prop, looked at and adjusted: header, line, view and evidence, filled by the station that is open. */
export default function BenchView({ stations = STATIONS }: { stations?: Station[] }) {
  const id = Number(useParams().id);
  const { data: prop, error } = useQuery(propQuery(id));
  if (error) {
    return (
      <EmptyState title="This prop cannot be shown">
        {error.message}.{" "}
        <Link to="/" className="text-mark underline">
          Back to the Yard
        </Link>
      </EmptyState>
    );
  }
  return prop ? <OpenBench key={id} prop={prop} stations={stations} /> : <Loading what="the prop" />;
}

function OpenBench({ prop, stations }: { prop: PropDetail; stations: Station[] }) {
  const { id } = prop;
  const navigate = useNavigate();
  const { data: project } = useQuery(projectQuery);
  const { jobs } = useActivity();
  const { decide, dispute, askWhich, rename, changeLine, undo, redo, rebuild } = useDecisions(id);
  const [open, setOpen] = useState("levels");
  const [left, setLeft] = useState(0);
  const [right, setRight] = useState(1);
  const [split, setSplit] = useState<number | null>(null);
  const [mode, setMode] = useState<DrawMode>("shaded");
  const [figure, setFigure] = useState(false);
  const { finding, place, setFinding, step: stepPlace, next: nextFinding } = useFindingShown(prop);
  const [stamp, setStamp] = useState(0);
  const [shown, show] = useState<Shown>(NOTHING_SHOWN);
  const eye = useRef(new EyeStore()).current;
  const loaded = useModel(prop.model ?? null);
  const { model } = loaded;
  const last = (model?.levels.length ?? 1) - 1;
  const job = jobs.find((active) => active.kind === "build" && active.subject === id);
  const cancel = useMutation({
    mutationFn: async (jobId: number) =>
      take(await client.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id: jobId } } })),
  });
  const toggleSplit = () => setSplit((old) => (old === null ? 0.5 : null));
  const frame = () => {
    setFinding(null);
    setStamp((old) => old + 1);
  };
  const showFinding = (next: Finding | null) => {
    setFinding(next);
    if (next?.level != null && next.level <= last) setLeft(next.level);
  };
  const compare = (index: number) => {
    setRight(index);
    setSplit((old) => old ?? 0.5);
  };
  const levelKeys = [0, 1, 2, 3, 4, 5, 6, 7].flatMap((index): [string, () => unknown][] => [
    [`${index}`, () => index <= last && setLeft(index)],
    [`shift+${index}`, () => index <= last && compare(index)],
  ]);
  useShortcuts({
    ...Object.fromEntries(levelKeys),
    v: () =>
      setMode(
        (old) =>
          DRAW_MODES[(DRAW_MODES.findIndex(({ value }) => value === old) + 1) % DRAW_MODES.length]?.value ?? "shaded",
      ),
    x: toggleSplit,
    p: () => setFigure((old) => !old),
    f: frame,
    "]": () => stepPlace(1),
    "[": () => stepPlace(-1),
    n: () => {
      const next = nextFinding();
      if (next) showFinding(next);
    },
    "mod+z": () => prop.undo && undo(prop.undo),
    "mod+shift+z": () => prop.redo && redo(),
    "mod+y": () => prop.redo && redo(),
    escape: () => {
      if (finding) setFinding(null);
      else if (!document.querySelector('[role="dialog"], [role="listbox"]')) void navigate("/");
    },
  });
  const bench: Bench = {
    prop,
    decide,
    askWhich,
    rename,
    model,
    eye,
    mode,
    left,
    right,
    last,
    setLeft,
    split,
    finding,
    showFinding,
    show,
  };
  const station = stations.find(({ name }) => name === open) ?? stations[0];
  return (
    <BenchContext value={bench}>
      <div className="flex h-full flex-col">
        <BenchHeader
          project={project?.name ?? ""}
          prop={prop}
          onUndo={() => undo(prop.undo)}
          onRedo={() => redo()}
          onShip={() => void navigate(`/shipments/new?ids=${id}`)}
          onRebuild={() => rebuild()}
        />
        <Group className="min-h-0 grow">
          <Panel defaultSize={388} minSize={268} maxSize={640} groupResizeBehavior="preserve-pixel-size">
            <LinePanel
              {...{ prop, project, stations, open, finding }}
              onLine={changeLine}
              onOpen={setOpen}
              onFinding={showFinding}
            />
          </Panel>
          <Separator
            className="w-px bg-rule-strong outline-none hover:bg-mark focus-visible:bg-mark data-[separator=active]:bg-mark"
            aria-label="Width of the line"
          />
          <Panel minSize={420} className="!overflow-hidden">
            <div className="flex h-full min-w-0 flex-col">
              <places.strip.Out />
              <div className="flex min-h-0 grow">
                <div className="relative min-w-0 grow">
                  <Guarded what="The view" on={[prop.model]}>
                    <BenchStage
                      prop={prop}
                      shown={shown}
                      loading={loaded.loading || job !== undefined}
                      problem={loaded.error}
                      onRetry={loaded.retry}
                      onRebuild={() => rebuild()}
                      job={job ?? null}
                      onCancel={(jobId) => cancel.mutate(jobId)}
                      eye={eye}
                      mode={mode}
                      onMode={setMode}
                      figure={figure}
                      onFigure={setFigure}
                      finding={finding}
                      place={place}
                      onPlace={stepPlace}
                      stamp={stamp}
                      station={open}
                      onFrame={frame}
                      onSplit={setSplit}
                      onToggleSplit={toggleSplit}
                      onLevel={setLeft}
                      onRight={setRight}
                    />
                  </Guarded>
                </div>
                <places.aside.Out />
              </div>
              <EvidencePanel>
                <Guarded what="The evidence" on={[open, prop]}>
                  <places.evidence.Out />
                </Guarded>
              </EvidencePanel>
            </div>
          </Panel>
        </Group>
        <DisputeDialog dispute={dispute} />
        {station && (
          <Guarded what={station.title} on={[open, prop]}>
            <station.Open key={station.name} />
          </Guarded>
        )}
      </div>
    </BenchContext>
  );
}

interface LinePanelProps {
  prop: PropDetail;
  project: Project | undefined;
  stations: Station[];
  /** The name of the station that is open. */
  open: string;
  finding: Finding | null;
  onLine: (line: string) => void;
  onOpen: (station: string) => void;
  onFinding: (finding: Finding | null) => void;
}

/** The line's stations with the settings of the one that is open, and what was found along it. */
function LinePanel({ prop, project, stations, open, finding, onLine, onOpen, onFinding }: LinePanelProps) {
  return (
    <aside aria-label="The line" className="h-full overflow-y-auto bg-sheet px-3 py-3">
      <div className="mb-2 flex items-center justify-between gap-2">
        <span className="text-sm text-quiet">Line</span>
        {project && (
          <SelectBox
            label="Line"
            className="min-w-0 grow"
            value={prop.line}
            options={project.lines.map((line) => ({ value: line.name, label: line.title }))}
            onChange={onLine}
          />
        )}
      </div>
      <LineRail prop={prop} stations={stations} open={open} onOpen={onOpen}>
        <Guarded what="These settings" on={[open, prop]}>
          <places.settings.Out />
        </Guarded>
      </LineRail>
      <FindingsList findings={prop.findings} shown={finding} onShow={onFinding} />
      <Waivers prop={prop.id} waivable={prop.waivable} waivers={prop.waivers} />
    </aside>
  );
}
