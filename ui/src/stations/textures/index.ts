import { bytes, plural } from "../../parts/format";
import type { Station } from "../station";
import { OpenTextures } from "./OpenTextures";

export const TEXTURES: Station = {
  name: "textures",
  title: "Textures",
  summary: ({ facts }) => {
    const textures = facts.textures?.textures ?? [];
    if (!textures.length) return "no textures";
    return `${plural(textures.length, "texture")}, ${bytes(facts.textures?.gpu_bytes ?? 0)}`;
  },
  keys: [[", .", "the texture before, the next"]],
  Open: OpenTextures,
};
