import { useCallback, useEffect, useMemo, useState } from "react";

import type { PropDetail } from "../../api/client";
import { type Descent, parseDescent, stepOfTriangles } from "../../surface/descent";
import { type DescentLevel, makeDescentLevel } from "../../viewport/descentLevel";
import type { LoadedModel } from "../../viewport/model";
import { useFile } from "../../viewport/useFile";
import { useDisposed } from "../../viewport/useSheet";

/** The slider over the whole way down: what it draws, where it stands and what that is. */
export interface DescentState {
  /** Whether what is shown has a way down. */
  isOffered: boolean;
  isFailed: boolean;
  retry: () => void;
  /** Null while it loads, and where it did not come. */
  level: DescentLevel | null;
  /** Whether the view shows where the slider stands rather than a level that was built. */
  isOn: boolean;
  step: number;
  setStep: (step: number) => void;
  stop: () => void;
  isHot: boolean;
  setHot: (on: boolean) => void;
  /** Counts up whenever what is drawn changes. */
  stamp: number;
}

interface Input {
  prop: PropDetail;
  model: LoadedModel | null;
}

/** Fetches the descent of a prop once its Levels are open, and replays it. */
export function useDescent({ prop, model }: Input): DescentState {
  const url = prop.descent ?? null;
  const { file, isFailed, retry } = useFile(url, parseDescent);
  const [step, moveTo] = useState(0);
  const [isOn, setOn] = useState(false);
  const [isHot, heatUp] = useState(false);
  const [stamp, setStamp] = useState(0);
  const level = useMemo(
    () => (file && model && model.url === prop.model ? makeDescentLevel(file, model) : null),
    [file, model, prop.model],
  );
  useDisposed(level?.level ?? null);
  useEffect(() => {
    setOn(false);
    heatUp(false);
  }, [level]);
  const setStep = useCallback(
    (next: number) => {
      if (!level) return;
      level.show(next);
      moveTo(next);
      setOn(true);
      setStamp((old) => old + 1);
    },
    [level],
  );
  const stop = useCallback(() => setOn(false), []);
  const setHot = useCallback(
    (on: boolean) => {
      if (!level) return;
      level.setHeat(on);
      heatUp(on);
      setOn(true);
      setStamp((old) => old + 1);
    },
    [level],
  );
  return {
    isOffered: url !== null,
    isFailed,
    retry,
    level,
    isOn: isOn && level !== null,
    step,
    setStep,
    stop,
    isHot,
    setHot,
    stamp,
  };
}

/** What a level may be stopped by, in the units in which the settings have it. */
export type PreviewLimit = "ratio" | "triangles" | "vertices" | "tolerance" | "tolerance_mm";

/** The step at which a limit stops, as the sequence states it; `diagonal` is that of the prop in metres. */
export function stepOfLimit(descent: Descent, limit: PreviewLimit, value: number, diagonal: number): number {
  const last = descent.trianglesAt.length - 1;
  if (limit === "ratio") return stepOfTriangles(descent, Math.max(Math.round(value * descent.trianglesAt[0]!), 1));
  if (limit === "triangles") return stepOfTriangles(descent, value);
  if (limit === "vertices") {
    const at = descent.verticesAt.findIndex((count) => count <= value);
    return at < 0 ? last : at;
  }
  const metres = limit === "tolerance" ? (value / 100) * diagonal : value / 1000;
  const beyond = descent.largestAt.findIndex((largest) => largest > metres);
  return beyond < 0 ? last : Math.max(beyond - 1, 0);
}

/** The step at a place of the slider, 0 to 1, by the logarithm of the triangles. */
export function stepAt(descent: Descent, share: number): number {
  const most = descent.trianglesAt[0]!;
  const least = descent.trianglesAt.at(-1)!;
  if (share <= 0) return 0;
  return stepOfTriangles(descent, Math.round(most * (Math.max(least, 1) / most) ** Math.min(share, 1)));
}

/** The place of so many triangles on the slider, 0 to 1. */
export function shareOf(descent: Descent, triangles: number): number {
  const most = descent.trianglesAt[0]!;
  const least = Math.max(descent.trianglesAt.at(-1)!, 1);
  return least < most ? Math.min(Math.max(Math.log(most / Math.max(triangles, 1)) / Math.log(most / least), 0), 1) : 0;
}
