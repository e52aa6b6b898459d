import { useEffect, useState } from "react";
import { NearestFilter, NoColorSpace, type Texture, TextureLoader } from "three";

import type { Height } from "./mapChoices";

/** The address of the normals that heights would give. */
export function draftAddress(prop: number, image: string, { strength, shares }: Height): string {
  const query = new URLSearchParams([["strength", `${strength}`], ...shares.map((share) => ["shares", `${share}`])]);
  return `/api/props/${prop}/heights/${encodeURIComponent(image)}?${query}`;
}

/** The normals that a height map would give as it is being set; null where nothing is. While one is on its way the
 * one before stays, and of several that were asked for only the last is fetched. */
export function useHeightDraft(prop: number, image: string, draft: Height | null): Texture | null {
  const [texture, setTexture] = useState<Texture | null>(null);
  const [isLoading, setLoading] = useState(false);
  const [shown, setShown] = useState<string | null>(null);
  const address = draft ? draftAddress(prop, image, draft) : null;
  useEffect(() => {
    if (!address || isLoading || shown === address) return;
    setLoading(true);
    new TextureLoader().loadAsync(address).then(
      (loaded) => {
        loaded.flipY = false;
        loaded.colorSpace = NoColorSpace;
        loaded.magFilter = NearestFilter;
        setTexture(loaded);
        setShown(address);
        setLoading(false);
      },
      () => {
        // What was there before is of other settings.
        setTexture(null);
        setShown(address);
        setLoading(false);
      },
    );
  }, [address, isLoading, shown]);
  const isOver = draft === null;
  useEffect(() => {
    // The next draft begins with nothing, not with the last one's end.
    if (isOver) return;
    return () => {
      setTexture(null);
      setShown(null);
    };
  }, [isOver]);
  useEffect(() => () => texture?.dispose(), [texture]);
  return draft ? texture : null;
}
