import { useState } from "react";

import type { Level, PropDetail } from "../../../api/client";
import { Button } from "../../../parts/Button";
import { count } from "../../../parts/format";
import { Heading } from "../../../parts/Heading";
import { Segmented } from "../../../parts/Segmented";
import { useSize } from "../../../parts/useSize";
import type { EyeStore } from "../../../viewport/viewState";
import type { Decide } from "../../bench";
import { type Switches, switchesOf } from "../switches";
import { Axes } from "./Axes";
import { Curves } from "./Curves";
import { LevelFigures } from "./LevelFigures";
import { sightScale } from "./scale";
import { switchLabels } from "./switchLabels";
import { BaseSwitch, LastSwitch, OwnSwitch } from "./Switches";
import { You } from "./You";

const SHOWN: { value: "chart" | "figures"; label: string; hint: string }[] = [
  { value: "chart", label: "Sight", hint: "visible change against distance" },
  { value: "figures", label: "Figures", hint: "what each level costs and changes" },
];

interface SightChartProps {
  prop: PropDetail;
  eye: EyeStore;
  decide: Decide;
}

/** What each level changes, in pixels against the viewer's distance, or in figures. */
export function SightChart({ prop, eye, decide }: SightChartProps) {
  const { ref, width, height } = useSize<HTMLDivElement>();
  const [shows, setShows] = useState<"chart" | "figures">("chart");
  const switches = switchesOf(prop);
  const { levels: targets, cull_distance } = prop.settings.levels;
  const isAdjusted =
    cull_distance != null || switches.levels.some(({ index, target }) => index > 0 && isMoved(targets[target]));
  const reset = () =>
    decide("levels", { levels: targets.map((one) => ({ ...one, switch_distance: null })), cull_distance: null });
  return (
    <div className="flex h-full flex-col">
      <div className="flex items-start gap-2 pr-9">
        <Heading
          question="From where can a switch not be seen?"
          reading={shows === "figures" ? FIGURES : readingOf(switches)}
        />
        <span className="grow" />
        {isAdjusted && (
          <Button className="mt-1 shrink-0" onClick={reset} title="all switches where they were proposed">
            As proposed
          </Button>
        )}
        <span className="mt-1 shrink-0">
          <Segmented label="Evidence of the levels" value={shows} options={SHOWN} onChange={setShows} />
        </span>
      </div>
      {shows === "figures" && <LevelFigures prop={prop} />}
      <div ref={ref} className={shows === "figures" ? "hidden" : "relative min-h-0 grow"}>
        {switches.levels.length > 1 ? (
          <Chart {...{ prop, eye, decide, switches, width, height }} />
        ) : (
          <p className="grid h-full place-items-center text-quiet">
            {prop.levels.length ? "there are no levels below LOD0 to compare" : "told once the prop is built"}
          </p>
        )}
      </div>
    </div>
  );
}

const FIGURES =
  "Maximum deviation; how far the silhouette moves; width over which the shading turns; mean angle of the normals.";

function readingOf({ view, threshold }: Switches): string {
  return `Visible change from LOD0, in pixels at ${count(view.lines)} lines over ${view.angle}°. Below the dashed ${threshold} px it is not seen. Drag a handle to move its switch.`;
}

interface ChartProps extends SightChartProps {
  switches: Switches;
  width: number;
  height: number;
}

/** Curves over the distance; where each level begins is a handle on its curve. */
function Chart({ prop, eye, decide, switches, width, height }: ChartProps) {
  const scale = sightScale(switches, width, height);
  const below = switches.levels.filter(({ index }) => index > 0);
  const labels = switchLabels(switches.levels.map((level) => scale.x(level.distance)));
  const targets = prop.settings.levels.levels;
  const beforeBias = (metres: number) => Number((metres / switches.bias).toPrecision(3));
  const setFrom = (level: Level, metres: number) =>
    decide("levels", {
      levels: targets.map((one, i) => (i === level.target ? { ...one, switch_distance: beforeBias(metres) } : one)),
    });
  return (
    <svg
      width={width}
      height={height}
      className="absolute inset-0"
      role="group"
      aria-label="Visible change of the levels in pixels against distance"
    >
      <Axes scale={scale} threshold={switches.threshold} foot={height - 6} />
      <Curves scale={scale} levels={below} view={switches.view} />
      {switches.last !== null && (
        <LastSwitch
          scale={scale}
          metres={switches.last}
          onMove={(metres) => decide("levels", { cull_distance: beforeBias(metres) })}
        />
      )}
      {below.filter(isOfBase).map((level) => (
        <BaseSwitch key={level.index} label={labels[level.index]} {...{ scale, switches, level }} />
      ))}
      {below
        .filter((level) => !isOfBase(level))
        .map((level) => (
          <OwnSwitch
            key={level.index}
            label={labels[level.index]}
            isMoved={isMoved(targets[level.target])}
            onMove={(metres) => setFrom(level, metres)}
            {...{ scale, switches, level }}
          />
        ))}
      <You eye={eye} scale={scale} switches={switches} />
    </svg>
  );
}

const isMoved = (target: { switch_distance?: number | null } | undefined): boolean => target?.switch_distance != null;

/** Whether a state has this level of the base, where its switch is proposed and not chosen. */
function isOfBase(level: Level): boolean {
  return level.target < 0;
}
