import { useEffect, useRef, useState } from "react";

import type { EngineAsset } from "../../api/client";
import { disposeAsset, loadAsset, type WalkAsset } from "./loadAsset";

/** What is drawn of the assets, by their numbers; one that is imported again takes the place of what was there. */
export function useAssets(assets: EngineAsset[]): { drawn: Map<number, WalkAsset>; failed: string[] } {
  const [drawn, setDrawn] = useState(() => new Map<number, WalkAsset>());
  const [failed, setFailed] = useState<string[]>([]);
  const known = useRef(new Map<number, string>());
  useEffect(() => {
    const wanted = new Map(assets.flatMap(({ id, model, seen }) => (model && seen ? [[id, { model, seen }]] : [])));
    for (const id of known.current.keys()) {
      if (wanted.has(id)) continue;
      known.current.delete(id);
      setDrawn((old) => without(old, id));
    }
    for (const [id, { model, seen }] of wanted) {
      if (known.current.get(id) === model) continue;
      known.current.set(id, model);
      loadAsset(model, seen).then(
        (asset) => {
          if (known.current.get(id) === model) setDrawn((old) => new Map(without(old, id)).set(id, asset));
          else disposeAsset(asset);
        },
        () => setFailed((old) => [...old.filter((path) => path !== model), model]),
      );
    }
  }, [assets]);
  // What failed is told for as long as it lies there.
  return { drawn, failed: failed.filter((path) => assets.some(({ model }) => model === path)) };
}

function without(assets: Map<number, WalkAsset>, id: number): Map<number, WalkAsset> {
  const gone = assets.get(id);
  if (!gone) return assets;
  // The canvas may still draw it in this frame.
  setTimeout(() => disposeAsset(gone), 500);
  const rest = new Map(assets);
  rest.delete(id);
  return rest;
}
