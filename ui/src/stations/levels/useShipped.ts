import { useMemo } from "react";

import { type LoadedLevel, type LoadedModel, useModel } from "../../viewport/model";
import { dressed } from "./usePreview";

/** The level at an address as it would ship, in the materials of the model's LOD0; null until it is loaded. */
export function useShipped(url: string | null, model: LoadedModel | null): LoadedLevel | null {
  const loaded = useModel(url).model;
  const shape = loaded !== null && loaded.url === url ? loaded.levels[0] : undefined;
  return useMemo(() => (shape && model ? dressed(shape, model) : null), [shape, model]);
}
