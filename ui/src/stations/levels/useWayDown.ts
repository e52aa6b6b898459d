import { useMemo } from "react";

import type { PropDetail } from "../../api/client";
import type { Descent } from "../../surface/descent";
import type { LoadedModel } from "../../viewport/model";
import { type DescentState, useDescent } from "./useDescent";
import { type Preview, usePreview } from "./usePreview";
import { useShipped } from "./useShipped";

/** The slider, and what is drawn where it stands. */
export interface WayDown {
  descent: DescentState;
  /** The steps themselves, once they are loaded. */
  way: Descent | undefined;
  preview: Preview;
  /** The built levels and, behind them, the one where the slider stands. */
  model: LoadedModel | null;
  /** Whether what is drawn is of the slider, not LOD0. */
  isReplayed: boolean;
}

interface Input {
  prop: PropDetail;
  /** The prop, or the state of it that is shown. */
  seen: PropDetail;
  model: LoadedModel | null;
  isState: boolean;
}

export function useWayDown({ prop, seen, model, isState }: Input): WayDown {
  const descent = useDescent({ prop: seen, model });
  const way = descent.level?.replay.descent;
  const rests = way && descent.isOn && descent.step > 0 && !isState ? (way.trianglesAt[descent.step] ?? null) : null;
  const preview = usePreview(prop, rests);
  const shipped = useShipped(preview.url, model);
  // While it moves the slider replays; where it rests the view draws what would ship. Heat is the replay's own.
  const replayed = (descent.isHot ? null : shipped) ?? descent.level?.level ?? null;
  const withReplayed = useMemo(
    () => (model && replayed ? { ...model, levels: [...model.levels, replayed] } : model),
    [model, replayed],
  );
  const isReplayed = descent.isOn && (descent.step > 0 || descent.isHot);
  return { descent, way, preview, model: withReplayed, isReplayed };
}
