import { short } from "../../parts/format";
import type { Station } from "../station";
import { OpenLevels } from "./OpenLevels";

export const LEVELS: Station = {
  name: "levels",
  title: "Levels",
  summary: ({ levels }) => {
    const [first, last] = [levels[0], levels.at(-1)];
    if (!first || !last) return "none";
    return levels.length > 1
      ? `${levels.length} · ${short(first.triangles)} → ${short(last.triangles)}`
      : `1 · ${short(first.triangles)}`;
  },
  keys: [
    ["D", "deviation in colour, where the slider stands"],
    ["W", "walk away from the prop; Space walks to and fro, . and , a step"],
    ["K J Z", "blink at a switch, its difference, enlarged"],
  ],
  Open: OpenLevels,
};
