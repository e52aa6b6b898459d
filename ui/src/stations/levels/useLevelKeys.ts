import { useShortcuts } from "../../app/shortcuts";
import type { EyeStore } from "../../viewport/viewState";
import type { DescentState } from "./useDescent";
import type { Walk } from "./useWalk";

interface Input {
  walk: Walk;
  descent: DescentState;
  eye: EyeStore;
  startWalk: () => void;
  /** Whether there is a level to switch to. */
  hasSwitches: boolean;
  isPicking: boolean;
  onPick: (on: boolean) => void;
}

/** The keys of the station, before those of the Bench. */
export function useLevelKeys({ walk, descent, eye, startWalk, hasSwitches, isPicking, onPick }: Input): void {
  const stroll = (factor: number) =>
    walk.isOn ? walk.goTo(Math.min(Math.max(eye.get().distance * factor, walk.near), walk.far)) : false;
  useShortcuts(
    {
      d: () => descent.setHot(!descent.isHot),
      j: () => (hasSwitches ? walk.setSeen(walk.seen === "difference" ? "off" : "difference") : false),
      k: () => (hasSwitches ? walk.setSeen(walk.seen === "blink" ? "off" : "blink") : false),
      w: () => (walk.isOn ? walk.stop() : startWalk()),
      z: () => (walk.seen !== "off" ? walk.setEnlarged(!walk.enlarged) : false),
      " ": () => (walk.isOn && walk.seen === "off" ? walk.play(!walk.isPlaying) : false),
      ".": () => stroll(1.1),
      ",": () => stroll(1 / 1.1),
      escape: () => {
        if (walk.isOn) return walk.stop();
        if (descent.isOn) return descent.stop();
        return isPicking ? onPick(false) : false;
      },
    },
    { first: true },
  );
}
