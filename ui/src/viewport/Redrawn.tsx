import { useThree } from "@react-three/fiber";
import { useCallback, useEffect } from "react";

import { applyMode, type DrawMode, type LoadedModel } from "./model";

/** Draws the model again whenever `stamp` is another, for what changed outside of React, and once more at the end. */
export function Redrawn({ model, mode, stamp }: { model: LoadedModel; mode: DrawMode; stamp: unknown }) {
  const invalidate = useThree((state) => state.invalidate);
  const draw = useCallback(() => {
    applyMode(model, mode);
    invalidate();
  }, [model, mode, invalidate]);
  useEffect(draw, [draw, stamp]);
  useEffect(() => draw, [draw]);
  return null;
}
