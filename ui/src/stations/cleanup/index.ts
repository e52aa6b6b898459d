import { count } from "../../parts/format";
import type { Station } from "../station";
import { OpenCleanup } from "./OpenCleanup";

export const CLEANUP: Station = {
  name: "cleanup",
  title: "Cleanup",
  summary: ({ facts: { cleanup } }) => {
    if (!cleanup) return "";
    const repaired = cleanup.repaired.reduce((sum, fault) => sum + fault.count, 0);
    if (!cleanup.is_clean) return `${count(repaired)} repaired, some left`;
    return repaired ? `${count(repaired)} repaired` : "nothing to clean";
  },
  keys: [],
  Open: OpenCleanup,
};
