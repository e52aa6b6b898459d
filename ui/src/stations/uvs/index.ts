import { count } from "../../parts/format";
import type { Station } from "../station";
import { OpenUvs } from "./OpenUvs";

export const UVS: Station = {
  name: "uvs",
  title: "UVs",
  summary: ({ facts }) => {
    const channels = facts.uvs?.channels ?? [];
    const first = channels[0];
    if (!first) return "no UVs";
    const islands = `${count(first.islands)} ${first.islands === 1 ? "island" : "islands"}`;
    return facts.uvs?.light_map ? `${islands}, light map` : islands;
  },
  keys: [["E O I", "mark a seam, a loop of seams, a straight strip"]],
  Open: OpenUvs,
};
