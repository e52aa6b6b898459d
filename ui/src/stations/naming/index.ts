import type { Station } from "../station";
import { OpenNaming } from "./OpenNaming";

export const NAMING: Station = {
  name: "naming",
  title: "Naming",
  summary: ({ names, name }) => names[0]?.root ?? name,
  keys: [],
  Open: OpenNaming,
};
