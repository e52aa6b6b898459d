import { useThree } from "@react-three/fiber";
import { useEffect } from "react";

import { applyMode, type DrawMode, type LoadedModel } from "./model";

/** Draws the model again whenever `stamp` changes, for what changed outside of React. */
export function Redrawn({ model, mode, stamp }: { model: LoadedModel; mode: DrawMode; stamp: number }) {
  const invalidate = useThree((state) => state.invalidate);
  useEffect(() => {
    applyMode(model, mode);
    invalidate();
  }, [model, mode, stamp, invalidate]);
  return null;
}
