import { useEffect, useRef, useState } from "react";
import { Vector3 } from "three";

import type { LoadedModel } from "../../viewport/model";
import type { EyeStore } from "../../viewport/viewState";
import { makePlayWorld, type PlayWorld } from "./physics";

/** Balls and a walker against the model's collision; another model begins anew. */
export function usePlay(model: LoadedModel | null) {
  const [world, setWorld] = useState<PlayWorld | null>(null);
  const [isLoading, setLoading] = useState(false);
  const [said, setSaid] = useState<string | null>(null);
  const clear = () => {
    setWorld(null);
    setSaid(null);
  };
  useEffect(() => clear, [model]);
  useEffect(() => () => world?.free(), [world]);
  const current = useRef(model);
  useEffect(() => {
    current.current = model;
  }, [model]);
  const ready = async () => {
    if (world || isLoading || !model?.proxies.length) return world;
    setLoading(true);
    try {
      const made = await makePlayWorld(model.proxies, model.bounds);
      if (current.current !== model) {
        // Another model came meanwhile, with proxies of its own.
        made.free();
        return null;
      }
      setWorld(made);
      return made;
    } catch {
      setSaid("The physics could not be loaded; load the page again.");
      return null;
    } finally {
      setLoading(false);
    }
  };
  return {
    world,
    isLoading,
    said,
    setSaid,
    clear,
    drop: () => void ready().then((there) => there?.drop()),
    push: (eye: EyeStore) => {
      const bearing = (eye.get().bearing * Math.PI) / 180;
      void ready().then((there) => {
        setSaid(null);
        there?.push(new Vector3(Math.sin(bearing), 0, Math.cos(bearing)));
      });
    },
  };
}
