import { useEffect, useState } from "react";

import { client, type Level, type PropDetail, take } from "../../api/client";
import type { LoadedLevel, LoadedModel } from "../../viewport/model";

/** How long the slider rests before its level is made as it would ship, and between two questions whether it is there. */
export const REST = 350;
const AGAIN = 250;

/** The level where the slider rests, as it would ship. */
export interface Preview {
  /** The address of its shape; null until it is there, and where there is none. */
  url: string | null;
  facts: Level | null;
  isMaking: boolean;
}

interface Answer {
  /** The question that was answered. */
  about: string;
  model: string | null;
  facts: Level | null;
}

/**
 * Asks for the level of so many triangles once `triangles` rests, null while nothing is to be looked at. A build that is
 * made of other settings, which gives the prop another model, is asked anew.
 */
export function usePreview(prop: PropDetail, triangles: number | null): Preview {
  const about = triangles === null ? null : `${prop.id} ${prop.model} ${triangles}`;
  const [answer, setAnswer] = useState<Answer | null>(null);
  const { id } = prop;
  useEffect(() => {
    if (about === null || triangles === null) return;
    const stop = new AbortController();
    const params = { path: { prop_id: id }, query: { triangles } };
    const ask = async (): Promise<void> => {
      try {
        const found = take(await client.POST("/api/props/{prop_id}/preview", { params, signal: stop.signal }));
        if (stop.signal.aborted) return;
        if (found.state === "working") timer = setTimeout(() => void ask(), AGAIN);
        else setAnswer({ about, model: found.model ?? null, facts: found.level ?? null });
      } catch {
        // What the view draws already is the best there is then.
        if (!stop.signal.aborted) setAnswer({ about, model: null, facts: null });
      }
    };
    let timer = setTimeout(() => void ask(), REST);
    return () => {
      stop.abort();
      clearTimeout(timer);
    };
  }, [about, id, triangles]);
  const mine = answer !== null && answer.about === about ? answer : null;
  return { url: mine?.model ?? null, facts: mine?.facts ?? null, isMaking: about !== null && mine === null };
}

/** A shape in the materials of the model's LOD0, by their names. */
export function dressed(shape: LoadedLevel, model: LoadedModel): LoadedLevel {
  const worn = model.levels[0]?.meshes ?? [];
  const nameOf = ({ own }: LoadedLevel["meshes"][number]) => (Array.isArray(own) ? own[0]?.name : own.name);
  const meshes = shape.meshes.map((entry) => {
    const like = worn.find((other) => nameOf(other) === nameOf(entry));
    return like ? { ...entry, own: like.own, flat: like.flat } : entry;
  });
  return { ...shape, meshes };
}
