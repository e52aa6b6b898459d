import { useEffect, useMemo, useState } from "react";
import type { BufferGeometry } from "three";

import { parseSheet, type Sheet } from "../surface/sheet";
import type { LoadedLevel, LoadedModel } from "./model";
import { makeSurfaceLevel, type SurfaceLevel } from "./surfaceLevel";

interface Loaded {
  url: string;
  sheet: Sheet;
}

/** LOD0 taken apart, once its sheet is here; null while it loads, and where there is none for this model. */
export function useSurfaceLevel(
  url: string | null,
  model: LoadedModel | null,
  modelUrl: string | null,
): SurfaceLevel | null {
  const [loaded, setLoaded] = useState<Loaded | null>(null);
  useEffect(() => {
    if (!url) return;
    const stop = new AbortController();
    fetch(url, { signal: stop.signal })
      .then(async (answer) => {
        if (answer.ok) setLoaded({ url, sheet: parseSheet(await answer.arrayBuffer()) });
      })
      .catch(() => undefined);
    return () => stop.abort();
  }, [url]);
  const made = useMemo(() => {
    if (!loaded || loaded.url !== url || !model || model.url !== modelUrl) return null;
    try {
      return makeSurfaceLevel(model, loaded.sheet);
    } catch {
      return null;
    }
  }, [loaded, url, model, modelUrl]);
  useDisposed(made?.level ?? null);
  return made;
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
