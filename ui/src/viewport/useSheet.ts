import { useEffect, useMemo } from "react";
import type { BufferGeometry } from "three";

import { parseSheet } from "../surface/sheet";
import type { LoadedLevel, LoadedModel } from "./model";
import { useFile } from "./useFile";
import { makeSurfaceLevel, type SurfaceLevel } from "./surfaceLevel";

/** LOD0 taken apart, and what keeps it from being so. */
export interface SurfaceState {
  /** Null while it loads, and where there is none for this model. */
  surface: SurfaceLevel | null;
  isFailed: boolean;
  retry: () => void;
}

/** LOD0 of a model taken apart, once its sheet is here. */
export function useSurfaceLevel(url: string | null, model: LoadedModel | null, modelUrl: string | null): SurfaceState {
  const { file: sheet, isFailed, retry } = useFile(url, parseSheet);
  const made = useMemo(() => {
    if (!sheet || !model || model.url !== modelUrl) return null;
    try {
      return makeSurfaceLevel(model, sheet);
    } catch {
      return "failed";
    }
  }, [sheet, model, modelUrl]);
  const surface = made === "failed" ? null : made;
  useDisposed(surface?.level ?? null);
  return { surface, isFailed: isFailed || made === "failed", retry };
}

/** Disposes of a level's geometry when another takes its place. */
export function useDisposed(level: LoadedLevel | null): void {
  useEffect(() => {
    if (!level) return;
    // The canvas may still draw it in this frame.
    return () =>
      void setTimeout(() => level.meshes.forEach(({ mesh }) => (mesh.geometry as BufferGeometry).dispose()), 500);
  }, [level]);
}
