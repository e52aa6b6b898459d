import { useCallback, useState } from "react";

import { Button } from "../../parts/Button";
import { Segmented } from "../../parts/Segmented";
import { useModel } from "../../viewport/model";
import type { Hit } from "../../viewport/Picker";
import { spotOf } from "../../viewport/toSource";
import { places, useBench, useLevelsShown } from "../bench";
import { DescentBar, DeviationScale } from "./DescentBar";
import { LevelsDrawn } from "./LevelsDrawn";
import { LevelsSettings } from "./LevelsSettings";
import { SightChart } from "./sight/SightChart";
import { stepOfLimit } from "./useDescent";
import { useLevelKeys } from "./useLevelKeys";
import { useSeenState } from "./useSeenState";
import { useWalk } from "./useWalk";
import { useWayDown } from "./useWayDown";
import { WalkBar } from "./WalkBar";
import { withLevel } from "./withLevel";

/** No state may have this name. */
const BASE = "-";

/** The chain: how far each level goes, what it changes, and from where it is drawn. */
export function OpenLevels() {
  const bench = useBench();
  const { prop, eye, mode, left, right, split } = bench;
  const state = useSeenState(prop, bench.decide);
  const seen = state.prop;
  // A state has a model of its own; the base's is the Bench's.
  const own = useModel(state.name === null ? null : (seen.model ?? null));
  const model = state.name === null ? bench.model : own.model;
  const last = (model?.levels.length ?? 1) - 1;
  const radius = model?.sphere.radius ?? 1;
  const down = useWayDown({ prop, seen, model, isState: state.name !== null });
  const { descent, preview, isReplayed } = down;
  const walk = useWalk({ prop: seen, eye, radius });
  const [blinksOther, setBlinksOther] = useState(false);
  const [isPicking, setPicking] = useState(false);
  const matrix = prop.facts.placement?.matrix;
  const { setLeft } = bench;
  const goTo = (index: number) => {
    walk.stop();
    descent.stop();
    setLeft(index);
  };
  const startWalk = () => {
    descent.stop();
    walk.start();
  };
  const { decide } = bench;
  const patches = prop.settings.levels.protected;
  const onPick = useCallback(
    (hit: Hit) => {
      const spot = spotOf(hit, matrix);
      if (spot) decide("levels", { protected: [...patches, { ...spot, by: "angle", angle: 20 }] });
      setPicking(false);
    },
    [matrix, patches, decide],
  );
  useLevelKeys({ walk, descent, eye, startWalk, hasSwitches: last > 0, isPicking, onPick: setPicking });
  const at = Math.min(left, last);
  const drawn = isReplayed ? (split === null ? last + 1 : 0) : descent.isOn ? 0 : at;
  useLevelsShown({
    model: down.model,
    left: walk.isOn ? walk.drawn : drawn,
    right: descent.isOn ? (isReplayed ? last + 1 : 0) : Math.min(right, last),
    split: walk.isOn ? null : split,
    canSplit: last > 0,
    chip: descent.isOn ? (split === null ? -1 : 0) : at,
    levels: walk.isOn ? null : seen.levels,
    hasRightChip: !descent.isOn && !walk.isOn,
    hasPicture: walk.seen !== "off",
    onPick: isPicking ? onPick : null,
  });
  const showLimit = (limit: Parameters<typeof stepOfLimit>[1], value: number) => {
    const size = prop.facts.placement?.size ?? [1];
    if (down.way && !walk.isOn) descent.setStep(stepOfLimit(down.way, limit, value, Math.hypot(...size)));
  };
  return (
    <>
      <places.settings.In>
        <LevelsSettings
          prop={seen}
          left={at}
          onLevel={goTo}
          decide={state.decide}
          isPicking={isPicking}
          onPick={setPicking}
          onPreview={showLimit}
        />
      </places.settings.In>
      <places.evidence.In>
        <SightChart prop={seen} eye={eye} decide={state.decide} />
      </places.evidence.In>
      {down.model && (
        <LevelsDrawn model={down.model} mode={mode} walk={walk} descent={descent} onBlink={setBlinksOther} />
      )}
      <places.strip.In>
        {walk.isOn ? (
          <WalkBar walk={walk} eye={eye} blinksOther={blinksOther} />
        ) : (
          // In a state it keeps its place, so that the view does not move.
          prop.descent && (
            <DescentBar
              descent={descent}
              preview={preview}
              prop={seen}
              triangles={seen.levels[at]?.triangles ?? 0}
              onUse={(triangles) => decide("levels", { levels: withLevel(prop, triangles) })}
            />
          )
        )}
      </places.strip.In>
      <places.overlay.In>
        <DeviationScale descent={descent} preview={preview} />
      </places.overlay.In>
      {prop.states.length > 0 && (
        <places.toolsBefore.In>
          <Segmented
            label="State that is shown"
            value={state.name ?? BASE}
            options={[{ value: BASE, label: "base" }, ...prop.states.map(({ name }) => ({ value: name, label: name }))]}
            onChange={(name) => state.see(name === BASE ? null : name)}
          />
        </places.toolsBefore.In>
      )}
      <places.tools.In>
        <Button
          pressed={walk.isOn}
          onClick={() => (walk.isOn ? walk.stop() : startWalk())}
          title="walk away from the prop and see its levels switch (W)"
        >
          Walk
        </Button>
      </places.tools.In>
    </>
  );
}
