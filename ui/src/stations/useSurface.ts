import { useMemo } from "react";

import { useSurfaceLevel } from "../viewport/useSheet";
import { useBench } from "./bench";

/** LOD0 of the prop taken apart, and the model with that in its place. */
export function useSurface() {
  const { prop, model } = useBench();
  const state = useSurfaceLevel(prop.sheet ?? null, model, prop.model ?? null);
  const first = state.surface?.level ?? null;
  const apart = useMemo(
    () => (model && first ? { ...model, levels: [first, ...model.levels.slice(1)] } : model),
    [model, first],
  );
  return { ...state, apart };
}
