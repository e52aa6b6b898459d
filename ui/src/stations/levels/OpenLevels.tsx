import { useCallback, useMemo, useState } from "react";

import { useShortcuts } from "../../app/shortcuts";
import { Button } from "../../parts/Button";
import { Segmented } from "../../parts/Segmented";
import { sizeInPixels } from "../../viewport/gameView";
import { useModel } from "../../viewport/model";
import type { Hit } from "../../viewport/Picker";
import { Redrawn } from "../../viewport/Redrawn";
import { SwitchPicture } from "../../viewport/SwitchPicture";
import { spotOf } from "../../viewport/toSource";
import { WalkCamera } from "../../viewport/WalkCamera";
import { places, useBench, useLevelsShown } from "../bench";
import { DescentBar, DeviationScale } from "./DescentBar";
import { LevelsSettings } from "./LevelsSettings";
import { SightChart } from "./sight/SightChart";
import { stepOfLimit, useDescent } from "./useDescent";
import { usePreview } from "./usePreview";
import { useShipped } from "./useShipped";
import { useSeenState } from "./useSeenState";
import { useWalk } from "./useWalk";
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
  const descent = useDescent({ prop: seen, model });
  const walk = useWalk({ prop: seen, eye, radius });
  const [blinksOther, setBlinksOther] = useState(false);
  const [isPicking, setPicking] = useState(false);
  const matrix = prop.facts.placement?.matrix;
  const way = descent.level?.replay.descent;
  const rests =
    way && descent.isOn && descent.step > 0 && state.name === null ? (way.trianglesAt[descent.step] ?? null) : null;
  const preview = usePreview(prop, rests);
  const shipped = useShipped(preview.url, model);
  // While it moves the slider replays; where it rests the view draws what would ship. Heat is the replay's own.
  const replayed = (descent.isHot ? null : shipped) ?? descent.level?.level ?? null;
  const withReplayed = useMemo(
    () => (model && replayed ? { ...model, levels: [...model.levels, replayed] } : model),
    [model, replayed],
  );
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
  const stroll = (factor: number) =>
    walk.isOn ? walk.goTo(Math.min(Math.max(eye.get().distance * factor, walk.near), walk.far)) : false;
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
  useShortcuts(
    {
      d: () => descent.setHot(!descent.isHot),
      j: () => (last > 0 ? walk.setSeen(walk.seen === "difference" ? "off" : "difference") : false),
      k: () => (last > 0 ? walk.setSeen(walk.seen === "blink" ? "off" : "blink") : false),
      w: () => (walk.isOn ? walk.stop() : startWalk()),
      z: () => (walk.seen !== "off" ? walk.setEnlarged(!walk.enlarged) : false),
      " ": () => (walk.isOn && walk.seen === "off" ? walk.play(!walk.isPlaying) : false),
      ".": () => stroll(1.1),
      ",": () => stroll(1 / 1.1),
      escape: () => {
        if (walk.isOn) return walk.stop();
        if (descent.isOn) return descent.stop();
        return isPicking ? setPicking(false) : false;
      },
    },
    { first: true },
  );
  const at = Math.min(left, last);
  const isReplayed = descent.isOn && (descent.step > 0 || descent.isHot);
  const drawn = isReplayed ? (split === null ? last + 1 : 0) : descent.isOn ? 0 : at;
  useLevelsShown({
    model: withReplayed,
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
    if (way && !walk.isOn) descent.setStep(stepOfLimit(way, limit, value, Math.hypot(...size)));
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
      {withReplayed && (
        <places.drawn.In>
          {walk.isOn && walk.switches && (
            <WalkCamera
              middle={withReplayed.sphere.center}
              view={walk.switches.view}
              near={walk.near}
              far={walk.far}
              goal={walk.goal}
              isPlaying={walk.isPlaying}
            />
          )}
          {descent.isOn && <Redrawn model={withReplayed} mode={mode} stamp={descent.stamp} />}
        </places.drawn.In>
      )}
      {withReplayed && walk.seen !== "off" && walk.switches && (
        <places.picture.In>
          <SwitchPicture
            model={withReplayed}
            one={walk.at - 1}
            other={walk.at}
            kind={walk.seen}
            pixels={sizeInPixels(walk.switches.view, walk.switches.levels[walk.at]?.distance ?? 1)}
            enlarged={walk.enlarged}
            onBlink={setBlinksOther}
          />
        </places.picture.In>
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
