import { dimensions } from "../../parts/format";
import type { Station } from "../station";
import { OpenPlacement } from "./OpenPlacement";

export const PLACEMENT: Station = {
  name: "placement",
  title: "Placement",
  summary: ({ facts }) => (facts.placement ? dimensions(facts.placement.size) : ""),
  keys: [["S", "spin about the pivot"]],
  Open: OpenPlacement,
};
