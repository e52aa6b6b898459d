import { short } from "../../parts/format";
import type { Station } from "../station";
import { OpenTriangulation } from "./OpenTriangulation";

export const TRIANGULATION: Station = {
  name: "triangulation",
  title: "Triangulation",
  summary: ({ facts, levels }) => {
    if (!facts.source) return "";
    const triangles = facts.triangulation?.triangles ?? levels[0]?.triangles ?? facts.source.triangles;
    return `${short(facts.source.polygons)} → ${short(triangles)}`;
  },
  keys: [],
  Open: OpenTriangulation,
};
