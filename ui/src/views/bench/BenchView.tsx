import { useMutation, useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";

import { client, type Finding, take } from "../../api/client";
import { projectQuery, propQuery } from "../../api/queries";
import { useActivity } from "../../app/activity";
import { useShortcuts } from "../../app/shortcuts";
import { Button } from "../../parts/Button";
import { EmptyState, Loading } from "../../parts/Notes";
import { Segmented } from "../../parts/Segmented";
import { SelectBox } from "../../parts/SelectBox";
import { DRAW_MODES, type DrawMode, useModel } from "../../viewport/model";
import { type Hit, snapped } from "../../viewport/Picker";
import type { NormalLines } from "../../viewport/normalLines";
import { useSurfaceLevel } from "../../viewport/useSheet";
import { Redrawn } from "../../viewport/Redrawn";
import { sizeInPixels } from "../../viewport/gameView";
import { SwitchPicture } from "../../viewport/SwitchPicture";
import { Viewport } from "../../viewport/Viewport";
import { WalkCamera } from "../../viewport/WalkCamera";
import { EyeStore } from "../../viewport/viewState";
import { BenchHeader } from "./BenchHeader";
import { CutsDrawn } from "./cuts/CutsDrawn";
import { type CutView, useCuts } from "./cuts/useCuts";
import { DescentBar, HeatScale } from "./descent/DescentBar";
import { stepOfLimit, useDescent } from "./descent/useDescent";
import { withLevel } from "./descent/withLevel";
import { Evidence } from "./evidence/Evidence";
import { Findings, hasPlaces, sorted } from "./Findings";
import { chipWidth, LevelChip } from "./LevelChips";
import { LineRail } from "./LineRail";
import { AimRead, MarkBar } from "./marking/MarkBar";
import { MarkingDrawn, NormalsDrawn } from "./marking/MarkingDrawn";
import { type Tool, useMarking } from "./marking/useMarking";
import type { PickKind } from "./settings/PlacementSettings";
import { StationSettings } from "./StationSettings";
import type { StationName } from "./summaries";
import { Absent } from "./stage/Absent";
import { MaterialNames, Sides, SlantScale } from "./stage/Legends";
import { BuildFailed, Building, InHand, PlaceStepper } from "./stage/Notices";
import { useDecisions } from "./useDecisions";
import { useWalk } from "./walk/useWalk";
import { WalkBar } from "./walk/WalkBar";
import { shipByHand } from "./useSource";
import { useSeenState } from "./useSeenState";
import { protectedSpot, toSource, useStage } from "./useStage";

/** One prop, looked at and adjusted. */
export default function BenchView() {
  const id = Number(useParams().id);
  const { data: prop, error } = useQuery(propQuery(id));
  const { data: project } = useQuery(projectQuery);
  const { jobs } = useActivity();
  const navigate = useNavigate();
  const { decide, rename, changeLine, undo, redo, rebuild } = useDecisions(id);
  const [station, setStation] = useState<StationName>("levels");
  const [left, setLeft] = useState(0);
  const [right, setRight] = useState(1);
  const [split, setSplit] = useState<number | null>(null);
  const [mode, setMode] = useState<DrawMode>("shaded");
  const [figure, setFigure] = useState(false);
  const [finding, setFinding] = useState<Finding | null>(null);
  const [place, setPlace] = useState<number | null>(null);
  const [selected, setSelected] = useState<string | null>(null);
  const [pick, setPick] = useState<PickKind | null>(null);
  const [spin, setSpin] = useState(false);
  const [stamp, setStamp] = useState(0);
  const [folded, setFolded] = useState(false);
  const [normals, setNormals] = useState<NormalLines>("off");
  const [showsHard, setShowsHard] = useState(true);
  const eye = useRef(new EyeStore()).current;
  const decidedAngle = (prop?.settings.normals?.angle as number | undefined) ?? 38;
  const [angle, setAngle] = useState(decidedAngle);
  useEffect(() => setAngle(decidedAngle), [decidedAngle]);
  useEffect(() => setFinding(null), [prop?.model]);
  useEffect(() => setPlace(null), [finding]);
  useEffect(() => {
    setPick(null);
    setSpin(false);
    putDown.current(null);
  }, [station]);
  const putDown = useRef<(tool: Tool | null) => void>(() => undefined);
  // Of the states only Levels knows; everywhere else the base is looked at.
  const state = useSeenState(prop, decide, station === "levels");
  const seen = state.prop;
  const { model, loading, error: modelError } = useModel(seen?.model ?? null);
  const job = jobs.find((active) => active.kind === "build" && active.prop === id);
  const cancel = useMutation({
    mutationFn: async (jobId: number) => take(await client.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id: jobId } } })),
  });

  const surface = useSurfaceLevel(station === "normals" || station === "triangulation" ? (prop?.sheet ?? null) : null, model, prop?.model ?? null);
  const radius = model?.sphere.radius ?? 1;
  const marking = useMarking({ prop, level: surface, isOpen: station === "normals", radius, angle, decide });
  useEffect(() => {
    putDown.current = marking.setTool;
  }, [marking.setTool]);
  const cuts = useCuts({ prop, level: surface, isOpen: station === "triangulation", radius, decide });
  const descent = useDescent({ prop: seen, model, isOpen: station === "levels" });
  const stage = useStage({
    prop,
    station,
    model,
    selected,
    left,
    right,
    split,
    surface: surface?.level ?? null,
    fan: cuts.fan,
    showsFan: cuts.view === "fan",
    descent: descent.level?.level ?? null,
    showsDescent: descent.isOn,
  });
  const walk = useWalk({ prop: seen, eye, radius, isOpen: station === "levels" });
  const [blinksOther, setBlinksOther] = useState(false);
  const startWalk = () => {
    descent.stop();
    walk.start();
  };
  const stroll = (factor: number) => walk.isOn && walk.goTo(Math.min(Math.max(eye.get().distance * factor, walk.near), walk.far));
  const goTo = (index: number) => {
    walk.stop();
    descent.stop();
    setLeft(index);
  };
  const { last, shownLeft, shownRight } = stage;
  const count = finding?.places?.points.length ?? 0;
  const stepPlace = (by: number) => count > 0 && setPlace((old) => (old === null ? (by > 0 ? 0 : count - 1) : (old + by + count) % count));
  const inHand = prop?.parts.find((part) => part.path === selected);
  const toggleInHand = () => prop && inHand && decide("source", shipByHand(prop, inHand.path, !inHand.ships));
  const onPick = useCallback(
    (hit: Hit) => {
      if (!prop) return;
      if (station === "source") {
        const number = /^part_(\d+)/.exec(hit.node)?.[1];
        const path = number === undefined ? undefined : prop.parts[Number(number)]?.path;
        setSelected((old) => (path === undefined || path === old ? null : path));
      } else if (pick && station === "levels") {
        const spot = protectedSpot(hit, (prop.facts.placement as { matrix?: number[] } | undefined)?.matrix);
        const already = (prop.settings.levels?.protected as unknown[] | undefined) ?? [];
        if (spot) decide("levels", { protected: [...already, spot] });
        setPick(null);
      } else if (pick) {
        const point = toSource(snapped(hit, pick), (prop.facts.placement as { matrix?: number[] } | undefined)?.matrix);
        if (point) decide("placement", { pivot: "point", on: pick, point });
        setPick(null);
      }
    },
    [prop, station, pick, decide],
  );
  const takeTool = (tool: Tool) => station === "normals" && marking.setTool(marking.tool === tool ? null : tool);
  const toggleSplit = () => setSplit((old) => (old === null ? 0.5 : null));
  const located = useMemo(() => sorted(prop?.findings ?? []).filter(hasPlaces), [prop?.findings]);
  const levelKeys = Object.fromEntries(
    [0, 1, 2, 3, 4, 5, 6, 7].flatMap((index) => [
      [`${index}`, () => index <= last && goTo(index)],
      [
        `shift+${index}`,
        () => {
          if (index > last) return;
          setRight(index);
          setSplit((old) => old ?? 0.5);
        },
      ],
    ]),
  );
  useShortcuts({
    ...levelKeys,
    v: () => setMode((old) => DRAW_MODES[(DRAW_MODES.findIndex(({ value }) => value === old) + 1) % DRAW_MODES.length]?.value ?? "shaded"),
    x: toggleSplit,
    p: () => setFigure((old) => !old),
    s: () => station === "placement" && setSpin((old) => !old),
    l: () => station === "source" && toggleInHand(),
    "]": () => stepPlace(1),
    "[": () => stepPlace(-1),
    f: () => {
      setFinding(null);
      setStamp((old) => old + 1);
    },
    n: () => {
      const next = located[(finding ? located.indexOf(finding) + 1 : 0) % Math.max(located.length, 1)];
      if (next) setFinding(next);
    },
    "mod+z": () => prop?.undo && undo(),
    "mod+shift+z": () => prop?.redo && redo(),
    "mod+y": () => prop?.redo && redo(),
    e: () => takeTool("edge"),
    o: () => takeTool("loop"),
    b: () => takeTool("border"),
    a: () => takeTool("patch"),
    u: () => takeTool("turn"),
    d: () => station === "levels" && descent.setHot(!descent.isHot),
    h: () => station === "normals" && marking.setAct("hard"),
    j: () => (station === "normals" ? marking.setAct("soft") : station === "levels" && last > 0 && walk.setSeen(walk.seen === "difference" ? "off" : "difference")),
    k: () => (station === "normals" ? marking.setAct("clear") : station === "levels" && last > 0 && walk.setSeen(walk.seen === "blink" ? "off" : "blink")),
    w: () => station === "levels" && (walk.isOn ? walk.stop() : startWalk()),
    z: () => walk.seen !== "off" && walk.setEnlarged(!walk.enlarged),
    " ": () => walk.isOn && walk.seen === "off" && walk.play(!walk.isPlaying),
    ".": () => stroll(1.1),
    ",": () => stroll(1 / 1.1),
    escape: () => {
      if (walk.isOn) walk.stop();
      else if (marking.tool) marking.setTool(null);
      else if (descent.isOn) descent.stop();
      else if (pick) setPick(null);
      else if (finding) setFinding(null);
      else if (selected && station === "source") setSelected(null);
      else if (!document.querySelector('[role="dialog"], [role="listbox"]')) void navigate("/");
    },
  });

  if (error) {
    return (
      <EmptyState title="This prop cannot be shown">
        {error.message}. <Link to="/" className="text-mark underline">Back to the Yard</Link>
      </EmptyState>
    );
  }
  if (!prop || !seen) return <Loading what="the prop" />;
  const showFinding = (next: Finding | null) => {
    setFinding(next);
    if (next?.places) state.see(null);
    if (next?.level != null && next.level <= last) setLeft(next.level);
  };
  return (
    <div className="flex h-full flex-col">
      <BenchHeader prop={prop} onUndo={() => undo()} onRedo={() => redo()} onShip={() => void navigate(`/shipments/new?ids=${id}`)} />
      <div className="flex min-h-0 grow">
        <aside aria-label="The line" className="w-67 shrink-0 overflow-y-auto border-r border-rule-strong bg-sheet px-3 py-3">
          <div className="mb-2 flex items-center justify-between gap-2">
            <span className="text-sm text-quiet">Line</span>
            {project && (
              <SelectBox
                label="Line"
                className="min-w-0 grow"
                value={prop.line}
                options={project.lines.map((line) => ({ value: line.name, label: line.title }))}
                onChange={(line) => changeLine(line)}
              />
            )}
          </div>
          <LineRail prop={prop} open={station} onOpen={setStation}>
            <StationSettings
              station={station}
              prop={prop}
              left={shownLeft}
              angle={angle}
              onAngle={setAngle}
              onLevel={goTo}
              decide={decide}
              rename={rename}
              pick={pick}
              onPick={setPick}
              spin={spin}
              onSpin={setSpin}
              marking={marking}
              onPreview={(limit, value) => {
                const way = descent.level?.replay.descent;
                const size = (prop.facts.size as number[] | undefined) ?? [1];
                if (way && !walk.isOn) descent.setStep(stepOfLimit(way, limit, value, Math.hypot(...size)));
              }}
            />
          </LineRail>
          <Findings findings={prop.findings} shown={finding} onShow={showFinding} />
        </aside>
        <div className="flex min-w-0 grow flex-col">
          <div className="relative min-h-0 grow">
            {stage.model ? (
              <Viewport
                key={stage.kind}
                model={stage.model}
                left={walk.isOn ? walk.drawn : stage.left}
                right={stage.right}
                split={walk.isOn ? null : stage.split}
                mode={mode}
                figure={figure}
                finding={finding}
                place={place}
                pivot={station === "placement"}
                spin={spin}
                onPick={station === "source" || pick ? onPick : null}
                frameStamp={stamp}
                eye={eye}
                onSplit={setSplit}
                picture={
                  walk.seen !== "off" && walk.switches ? (
                    <SwitchPicture
                      model={stage.model}
                      one={walk.at - 1}
                      other={walk.at}
                      kind={walk.seen}
                      pixels={sizeInPixels(walk.switches.view, walk.switches.levels[walk.at]?.distance ?? 1)}
                      enlarged={walk.enlarged}
                      onBlink={setBlinksOther}
                    />
                  ) : undefined
                }
              >
                {walk.isOn && walk.switches && <WalkCamera middle={stage.model.sphere.center} view={walk.switches.view} near={walk.near} far={walk.far} goal={walk.goal} isPlaying={walk.isPlaying} />}
                {station === "normals" && surface && stage.left === 0 && <MarkingDrawn marking={marking} level={surface} showsHard={showsHard} />}
                {station === "normals" && <NormalsDrawn model={stage.model} level={stage.left} kind={normals} stamp={marking.revision} />}
                {stage.kind === "cuts" && surface && <CutsDrawn cuts={cuts} level={surface} />}
                {descent.isOn && <Redrawn model={stage.model} mode={mode} stamp={descent.stamp} />}
              </Viewport>
            ) : (
              <Absent prop={prop} loading={loading || job !== undefined} problem={modelError} onRebuild={() => rebuild()} />
            )}
            {finding && count > 0 && <PlaceStepper finding={finding} place={place} count={count} onStep={stepPlace} />}
            {stage.kind === "source" && inHand && <InHand path={inHand.path} ships={inHand.ships} onToggle={toggleInHand} />}
            {stage.kind === "cuts" && (
              <>
                {stage.split === null && (
                  <div className="absolute top-3 left-3">
                    <Segmented label="The cut that is shown" value={cuts.view} options={CUT_VIEWS} onChange={cuts.setView} />
                  </div>
                )}
                {stage.split !== null && <Sides left="the engine's fan" right="as it ships" />}
              </>
            )}
            {station === "normals" && surface && stage.left === 0 && (
              <>
                <MarkBar marking={marking} />
                <AimRead marking={marking} />
              </>
            )}
            {mode === "slant" && <SlantScale />}
            {stage.kind === "cleanup" && stage.split !== null && <Sides left="as it came" right="cleaned" />}
            {stage.model && (
              <>
                {walk.isOn && (
                  <div className="absolute top-3 left-3">
                    <WalkBar walk={walk} eye={eye} blinksOther={blinksOther} />
                  </div>
                )}
                {stage.kind === "levels" && !walk.isOn && <div className={`pointer-events-none absolute left-3 flex flex-wrap items-start gap-2 *:pointer-events-auto ${station === "normals" && surface && stage.left === 0 ? "top-13" : "top-3"}`} style={{ right: split === null ? "0.75rem" : `${chipWidth(seen.levels.length)}px` }}>
                  <LevelChip levels={seen.levels} index={descent.isOn ? (split === null ? -1 : 0) : shownLeft} label={split === null ? "Level" : "Level on the left"} onLevel={goTo} />
                  {station === "levels" && <DescentBar descent={descent} prop={prop} triangles={prop.levels[shownLeft]?.triangles ?? 0} onUse={(triangles) => decide("levels", { levels: withLevel(prop, triangles) })} />}
                </div>}
                {station === "levels" && <HeatScale descent={descent} />}
                {stage.kind === "levels" && split !== null && !descent.isOn && !walk.isOn && (
                  <div className={`absolute right-3 ${station === "normals" && marking.tool ? "top-24" : "top-3"}`}>
                    <LevelChip levels={seen.levels} index={shownRight} label="Level on the right" onLevel={setRight} />
                  </div>
                )}
                {mode === "material" && <MaterialNames names={stage.model.materialNames} />}
                <div className="absolute bottom-3 left-3 flex flex-wrap gap-2">
                  {station === "levels" && prop.states.length > 0 && (
                    <Segmented label="State that is seen" value={state.name ?? BASE} options={[{ value: BASE, label: "base" }, ...prop.states.map(({ name }) => ({ value: name, label: name }))]} onChange={(name) => state.see(name === BASE ? null : name)} />
                  )}
                  <Segmented label="Drawn as" value={mode} options={DRAW_MODES} onChange={setMode} />
                  <Button pressed={stage.split !== null} onClick={toggleSplit} disabled={stage.kind === "source" || (stage.kind === "cuts" && !cuts.fan) || (stage.kind === "levels" && last === 0)} title={stage.kind === "cleanup" ? "before and after the cleanup (X)" : "two levels side by side (X)"}>
                    Split
                  </Button>
                  {station === "normals" && surface && (
                    <>
                      <Button pressed={showsHard} onClick={() => setShowsHard(!showsHard)} title="edges where the shading breaks">
                        Hard edges
                      </Button>
                      <Segmented label="Normals as lines" value={normals} options={NORMAL_LINES} onChange={setNormals} />
                    </>
                  )}
                  {station === "levels" && (
                    <Button pressed={walk.isOn} onClick={() => (walk.isOn ? walk.stop() : startWalk())} title="walk away from the prop and see its levels switch (W)">
                      Walk
                    </Button>
                  )}
                  <Button pressed={figure} onClick={() => setFigure(!figure)} title="a standing person of 1.8 m (P)">
                    1.8 m figure
                  </Button>
                  <Button
                    onClick={() => {
                      setFinding(null);
                      setStamp(stamp + 1);
                    }}
                    title="all of the prop (F)"
                  >
                    Frame
                  </Button>
                </div>
              </>
            )}
            {job && <Building job={job} onCancel={() => cancel.mutate(job.id)} />}
            {prop.error && !job && <BuildFailed error={prop.error} onRebuild={() => rebuild()} />}
          </div>
          <section aria-label="Evidence" className={`relative shrink-0 border-t border-rule-strong bg-sheet ${folded ? "h-7" : "h-54"}`}>
            <button
              type="button"
              aria-expanded={!folded}
              aria-label={folded ? "Show the evidence" : "Fold the evidence"}
              onClick={() => setFolded(!folded)}
              className="absolute top-1 right-2 z-1 size-6 text-quiet hover:text-ink"
            >
              {folded ? "▴" : "▾"}
            </button>
            {!folded && (
              <Evidence
                station={station}
                prop={seen}
                angle={angle}
                eye={eye}
                onAngle={setAngle}
                onAngleCommit={(value) => decide("normals", { angle: value, source: "angle" })}
                selected={selected}
                onSelect={setSelected}
                finding={finding}
                onShow={showFinding}
                decide={state.decide}
                marking={marking}
              />
            )}
          </section>
        </div>
      </div>
    </div>
  );
}

/** No state may have this name. */
const BASE = "-";
const CUT_VIEWS: { value: CutView; label: string; hint: string }[] = [
  { value: "chosen", label: "As it ships", hint: "the cut chosen here" },
  { value: "fan", label: "Engine's fan", hint: "what a plain fan from each polygon's first corner would make" },
  { value: "difference", label: "Difference", hint: "polygons that are cut otherwise; red ones an engine would break" },
];
const NORMAL_LINES: { value: NormalLines; label: string }[] = [
  { value: "off", label: "No lines" },
  { value: "corner", label: "Corners" },
  { value: "face", label: "Faces" },
];
