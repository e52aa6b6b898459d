import { useMemo } from "react";

import type { Finding, PropDetail } from "../../api/client";
import type { ActiveJob } from "../../app/activity";
import { Button } from "../../parts/Button";
import { Segmented } from "../../parts/Segmented";
import { useBox } from "../../parts/useBox";
import { places, type Shown } from "../../stations/bench";
import { DRAW_MODES, type DrawMode } from "../../viewport/model";
import type { EyeStore } from "../../viewport/viewState";
import { Viewport } from "../../viewport/Viewport";
import { chipWidth, LevelChip } from "./LevelChips";
import { MaterialNames, SlantScale } from "./stage/Legends";
import { NothingToDraw } from "./stage/NothingToDraw";
import { BuildFailed, Building, PlaceStepper } from "./stage/Notices";

interface BenchStageProps {
  prop: PropDetail;
  shown: Shown;
  loading: boolean;
  problem: string | null;
  onRetry: () => void;
  onRebuild: () => void;
  job: ActiveJob | null;
  onCancel: (job: number) => void;
  eye: EyeStore;
  mode: DrawMode;
  onMode: (mode: DrawMode) => void;
  figure: boolean;
  onFigure: (on: boolean) => void;
  finding: Finding | null;
  place: number | null;
  onPlace: (by: number) => void;
  stamp: number;
  /** The name of the station that is open. */
  station: string;
  onFrame: () => void;
  onSplit: (at: number) => void;
  onToggleSplit: () => void;
  onLevel: (index: number) => void;
  onRight: (index: number) => void;
}

/** Pixels from what stands over the view to its sides. */
const MARGIN = 12;
/** Pixels between the rows above. */
const GAP = 8;

/** The view with what stands over it: levels, notices, the row of tools, and whatever the open station adds. */
export function BenchStage(props: BenchStageProps) {
  const { prop, shown, mode, finding, place, job } = props;
  const { model, split } = shown;
  const [marks, above] = useBox();
  const [chip, level] = useBox();
  const [tools, below] = useBox();
  const covered = useMemo(
    () => ({
      foot: below.height && below.height + MARGIN,
      corner: [
        { width: above.width + MARGIN, height: above.height + MARGIN },
        { width: level.width + MARGIN, height: (above.height && above.height + GAP) + level.height + MARGIN },
      ],
    }),
    [above, level, below],
  );
  const count = finding?.places?.points.length ?? 0;
  return (
    <>
      {model ? (
        <Viewport
          key={shown.kind}
          model={model}
          left={shown.left}
          right={shown.right}
          split={split}
          mode={mode}
          figure={props.figure}
          finding={finding}
          place={place}
          pivot={shown.drawsPivot}
          spin={shown.spins}
          onPick={shown.onPick}
          frameStamp={props.stamp}
          covered={covered}
          room={props.station}
          eye={props.eye}
          onSplit={props.onSplit}
          picture={shown.hasPicture ? <places.picture.Out /> : undefined}
        >
          <places.drawn.Out />
        </Viewport>
      ) : (
        <NothingToDraw
          prop={prop}
          loading={props.loading}
          problem={props.problem}
          onRebuild={props.onRebuild}
          onRetry={props.onRetry}
        />
      )}
      {finding && count > 0 && <PlaceStepper finding={finding} place={place} count={count} onStep={props.onPlace} />}
      {mode === "slant" && <SlantScale />}
      {model && (
        <>
          <places.overlay.Out />
          <div className="pointer-events-none absolute top-3 right-3 left-3 flex flex-col items-start gap-2">
            <div ref={marks} className="max-w-full empty:hidden">
              <places.above.Out />
            </div>
            {shown.levels && (
              <div style={{ paddingRight: split === null ? 0 : `${chipWidth(shown.levels.length)}px` }}>
                <div ref={chip} className="*:pointer-events-auto">
                  <LevelChip
                    levels={shown.levels}
                    index={shown.chip}
                    label={split === null ? "Level" : "Level on the left"}
                    onLevel={props.onLevel}
                  />
                </div>
              </div>
            )}
          </div>
          {shown.levels && split !== null && shown.hasRightChip && (
            <div className="absolute top-3 right-3">
              <LevelChip levels={shown.levels} index={shown.right} label="Level on the right" onLevel={props.onRight} />
            </div>
          )}
          {mode === "material" && <MaterialNames names={model.materialNames} />}
        </>
      )}
      <div className="pointer-events-none absolute right-24 bottom-3 left-3 flex flex-col items-start gap-2 *:pointer-events-auto">
        {job && <Building job={job} onCancel={() => props.onCancel(job.id)} />}
        {model && (
          <div ref={tools} className="flex flex-wrap gap-2">
            <places.toolsBefore.Out />
            <Segmented label="Drawn as" value={mode} options={DRAW_MODES} onChange={props.onMode} />
            <Button
              pressed={split !== null}
              onClick={props.onToggleSplit}
              disabled={!shown.canSplit}
              title={shown.splitHint}
            >
              Split
            </Button>
            <places.tools.Out />
            <Button
              pressed={props.figure}
              onClick={() => props.onFigure(!props.figure)}
              title="a standing person of 1.8 m (P)"
            >
              1.8 m figure
            </Button>
            <Button onClick={props.onFrame} title="all of the prop (F)">
              Frame
            </Button>
          </div>
        )}
      </div>
      {prop.error && !job && <BuildFailed error={prop.error} onRebuild={props.onRebuild} />}
    </>
  );
}
