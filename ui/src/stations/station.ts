import type { ComponentType } from "react";

import type { PropDetail } from "../api/client";

/** A station on the Bench: what its stop in the line says, and what it shows while it is open. */
export interface Station {
  /** As findings and settings call it. */
  name: string;
  title: string;
  /** What its stop says in one short line. */
  summary: (prop: PropDetail) => string;
  /** Its keys, as the list of shortcuts names them. */
  keys: [string, string][];
  /** Mounted only while the station is open: holds its hooks, and fills the Bench's places. */
  Open: ComponentType;
}
