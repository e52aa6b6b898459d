import { createContext, useContext, useLayoutEffect, useRef } from "react";
import tunnel from "tunnel-rat";

import type { Finding, Level, PropDetail, Stale } from "../api/client";
import type { DrawMode, LoadedModel } from "../viewport/model";
import type { Hit } from "../viewport/Picker";
import type { EyeStore } from "../viewport/viewState";

export type Settings = PropDetail["settings"];
/** Changes settings of a station on the prop in hand. */
export type Decide = <Name extends keyof Settings>(station: Name, changes: Partial<Settings[Name]>) => void;

/** What the view draws while a station is open. */
export interface Shown {
  /** Another kind frames the view anew. */
  kind: "source" | "cleanup" | "cuts" | "levels";
  model: LoadedModel | null;
  left: number;
  right: number;
  /** Share of the view's width at which two states meet; null where one fills it. */
  split: number | null;
  /** Whether there are two states to compare. */
  canSplit: boolean;
  splitHint: string;
  /** The level that is marked as in sight; -1 where what is drawn is none of them. */
  chip: number;
  /** The levels whose counts stand over the view; none where it draws something else. */
  levels: Level[] | null;
  hasRightChip: boolean;
  drawsPivot: boolean;
  spins: boolean;
  /** A picture of the station's own takes the place of the levels. */
  hasPicture: boolean;
  onPick: ((hit: Hit) => void) | null;
}

export const NOTHING_SHOWN: Shown = {
  kind: "levels",
  model: null,
  left: 0,
  right: 0,
  split: null,
  canSplit: false,
  splitHint: "",
  chip: 0,
  levels: null,
  hasRightChip: true,
  drawsPivot: false,
  spins: false,
  hasPicture: false,
  onPick: null,
};

/** What stations share: the prop, its model, where the view stands, and what is in hand. */
export interface Bench {
  prop: PropDetail;
  decide: Decide;
  rename: (name: string) => void;
  /** Another browser decided the same meanwhile: asks which holds; `again` decides over the version that stands now. */
  askWhich: (error: Stale, again: (version: number) => void) => void;
  /** LOD0 and its levels as they were built; null while they load. */
  model: LoadedModel | null;
  eye: EyeStore;
  mode: DrawMode;
  /** Levels in sight, left and right of the split. */
  left: number;
  right: number;
  last: number;
  setLeft: (index: number) => void;
  split: number | null;
  finding: Finding | null;
  showFinding: (finding: Finding | null) => void;
  show: (shown: Shown) => void;
}

export const BenchContext = createContext<Bench | null>(null);

export function useBench(): Bench {
  const bench = useContext(BenchContext);
  if (!bench) throw new Error("useBench must be used on the Bench");
  return bench;
}

/** Places of the Bench that the open station fills: `In` is put there where `Out` stands. */
export const places = {
  settings: tunnel(),
  evidence: tunnel(),
  /** Within the 3D view. */
  drawn: tunnel(),
  picture: tunnel(),
  /** On top of the view, in its width. */
  strip: tunnel(),
  /** Beside the view, in its height. */
  aside: tunnel(),
  /** Over the view, and in the row of its tools. */
  overlay: tunnel(),
  above: tunnel(),
  toolsBefore: tunnel(),
  tools: tunnel(),
};

/** Tells the Bench what to draw; it is told again only when something of it changed. */
export function useShown(shown: Shown): void {
  const { show } = useBench();
  const last = useRef<Shown | null>(null);
  useLayoutEffect(() => {
    const before = last.current;
    const isSame =
      before !== null && (Object.keys(shown) as (keyof Shown)[]).every((key) => before[key] === shown[key]);
    if (isSame) return;
    last.current = shown;
    show(shown);
  });
}

/** The levels as they were built, left and right of the split: what most stations show. */
export function useLevelsShown(changes: Partial<Shown> = {}): void {
  const { prop, model, left, right, split, last } = useBench();
  useShown({
    ...NOTHING_SHOWN,
    model,
    left: Math.min(left, last),
    right: Math.min(right, last),
    split,
    canSplit: last > 0,
    splitHint: "two levels side by side (X)",
    chip: Math.min(left, last),
    levels: prop.levels,
    ...changes,
  });
}
