import { sizeInPixels } from "../../viewport/gameView";
import type { DrawMode, LoadedModel } from "../../viewport/model";
import { Redrawn } from "../../viewport/Redrawn";
import { SwitchPicture } from "../../viewport/SwitchPicture";
import { WalkCamera } from "../../viewport/WalkCamera";
import { places } from "../bench";
import type { DescentState } from "./useDescent";
import type { Walk } from "./useWalk";

interface LevelsDrawnProps {
  model: LoadedModel;
  mode: DrawMode;
  walk: Walk;
  descent: DescentState;
  onBlink: (other: boolean) => void;
}

/** What the walk, its pictures of a switch and the slider put into the view. */
export function LevelsDrawn({ model, mode, walk, descent, onBlink }: LevelsDrawnProps) {
  return (
    <>
      <places.drawn.In>
        {walk.isOn && walk.switches && (
          <WalkCamera
            middle={model.sphere.center}
            view={walk.switches.view}
            near={walk.near}
            far={walk.far}
            goal={walk.goal}
            isPlaying={walk.isPlaying}
          />
        )}
        {descent.isOn && <Redrawn model={model} mode={mode} stamp={descent.stamp} />}
      </places.drawn.In>
      {walk.seen !== "off" && walk.switches && (
        <places.picture.In>
          <SwitchPicture
            model={model}
            one={walk.at - 1}
            other={walk.at}
            kind={walk.seen}
            pixels={sizeInPixels(walk.switches.view, walk.switches.levels[walk.at]?.distance ?? 1)}
            enlarged={walk.enlarged}
            onBlink={onBlink}
          />
        </places.picture.In>
      )}
    </>
  );
}
