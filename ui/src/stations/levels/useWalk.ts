import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import type { PropDetail } from "../../api/client";
import { type EyeStore } from "../../viewport/viewState";
import { drawnAt, type Switches, switchesOf } from "./switches";

/** What the two pictures of a switch are shown as. */
export type SwitchView = "off" | "blink" | "difference";

/** The walk from near to far: the level that is drawn follows the viewer's distance as it will in the game. */
export interface Walk {
  isOn: boolean;
  start: () => void;
  stop: () => void;
  isPlaying: boolean;
  play: (on: boolean) => void;
  /** Metres between which it goes. */
  near: number;
  far: number;
  switches: Switches | null;
  /** Where the camera is asked to go; a new stamp asks again. */
  goal: { distance: number; stamp: number } | null;
  goTo: (distance: number) => void;
  /** The level in sight; -1: the prop is not drawn there. */
  drawn: number;
  /** The switch that was last passed: the level below it. */
  passed: number | null;
  seen: SwitchView;
  setSeen: (seen: SwitchView) => void;
  /** The switch that is looked at: the level below it. */
  at: number;
  setAt: (level: number) => void;
  enlarged: boolean;
  setEnlarged: (on: boolean) => void;
}

interface Input {
  prop: PropDetail;
  eye: EyeStore;
  radius: number;
}

export function useWalk({ prop, eye, radius }: Input): Walk {
  const switches = useMemo(() => (prop.levels.length > 0 ? switchesOf(prop) : null), [prop]);
  const [isOn, setOn] = useState(false);
  const [isPlaying, play] = useState(false);
  const [goal, setGoal] = useState<Walk["goal"]>(null);
  const [drawn, setDrawn] = useState(0);
  const [passed, setPassed] = useState<number | null>(null);
  const [seen, show] = useState<SwitchView>("off");
  const [at, lookAt] = useState(1);
  const [enlarged, setEnlarged] = useState(true);
  const before = useRef(0);
  // Near enough to see LOD0, but never within the prop.
  const first = switches?.levels[1]?.distance || Infinity;
  const near = Math.max(Math.min(radius * 1.4, first * 0.95), radius * 1.02);
  const furthest = Math.max(...(switches?.levels.map((level) => level.distance ?? 0) ?? [0]));
  const far = Math.max(switches?.last ?? 0, furthest * 1.5, near * 4) * 1.15;

  useEffect(() => {
    if (!isOn || !switches) return;
    const follow = () => {
      const next = drawnAt(switches, eye.get().distance);
      if (next !== before.current) {
        setPassed(next < 0 ? null : Math.max(next, before.current, 1));
        before.current = next;
        setDrawn(next);
      }
    };
    before.current = drawnAt(switches, eye.get().distance);
    setDrawn(before.current);
    return eye.subscribe(follow);
  }, [isOn, switches, eye]);
  const goTo = useCallback((distance: number) => setGoal((old) => ({ distance, stamp: (old?.stamp ?? 0) + 1 })), []);
  const start = useCallback(() => {
    setOn(true);
    setPassed(null);
    goTo(near);
  }, [goTo, near]);
  const stop = useCallback(() => {
    setOn(false);
    play(false);
    show("off");
  }, []);
  const switchDistance = useCallback((level: number) => switches?.levels[level]?.distance ?? near, [switches, near]);
  const setAt = useCallback(
    (level: number) => {
      lookAt(level);
      play(false);
      goTo(switchDistance(level));
    },
    [goTo, switchDistance],
  );
  const setSeen = useCallback(
    (next: SwitchView) => {
      show(next);
      if (next === "off") return;
      const level = Math.min(Math.max(at, 1), (switches?.levels.length ?? 2) - 1);
      setOn(true);
      setAt(level);
    },
    [at, setAt, switches],
  );
  const canWalk = isOn && switches !== null;
  // A chain that was built anew may have fewer switches than it had.
  const lastSwitch = (switches?.levels.length ?? 1) - 1;
  return {
    isOn: canWalk,
    start,
    stop,
    isPlaying: isPlaying && canWalk,
    play,
    near,
    far,
    switches,
    goal,
    goTo,
    drawn,
    passed,
    seen: canWalk && lastSwitch > 0 ? seen : "off",
    setSeen,
    at: Math.max(Math.min(at, lastSwitch), 1),
    setAt,
    enlarged,
    setEnlarged,
  };
}
