import { plural } from "../../parts/format";
import type { Station } from "../station";
import { OpenSource } from "./OpenSource";

export const SOURCE: Station = {
  name: "source",
  title: "Source",
  summary: ({ parts }) => {
    const ships = parts.filter((part) => part.ships).length;
    return ships === parts.length ? plural(ships, "part") : `${ships} of ${parts.length} parts`;
  },
  keys: [["L", "exclude the selected part, or include it"]],
  Open: OpenSource,
};
