import type { Station } from "../station";
import { OpenNormals } from "./OpenNormals";

export const NORMALS: Station = {
  name: "normals",
  title: "Normals",
  summary: ({ facts }) => facts.normals?.words ?? "",
  keys: [
    ["E O B A U", "mark an edge, a loop, a patch's border, a patch; flip faces"],
    ["H J K", "hard, soft, clear the mark"],
  ],
  Open: OpenNormals,
};
