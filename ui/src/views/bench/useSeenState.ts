import { useMemo, useState } from "react";

import type { PropDetail } from "../../api/client";
import type { Decide } from "./useDecisions";

interface StateSetting {
  name: string;
  levels: Record<string, unknown>[] | null;
}

interface SeenState {
  /** The state in sight; null: the base. */
  name: string | null;
  see: (name: string | null) => void;
  /** The prop as it is in that state: its own model and levels, and the settings of those. */
  prop: PropDetail | undefined;
  /** Decides about the levels in sight. */
  decide: Decide;
}

/** Which of the prop's states the Levels are shown of. */
export function useSeenState(prop: PropDetail | undefined, decide: Decide, isOpen: boolean): SeenState {
  const [name, see] = useState<string | null>(null);
  const state = isOpen ? prop?.states.find((other) => other.name === name) : undefined;
  const seen = useMemo(() => (prop && state ? inState(prop, state) : prop), [prop, state]);
  const decideThere: Decide = (station, changes) => {
    if (!prop || !state || station !== "levels" || !("levels" in changes)) return decide(station, changes);
    const { levels, ...others } = changes;
    const states = (prop.settings.levels?.states as StateSetting[]).map((other) => (other.name === state.name ? { ...other, levels: (levels as unknown[]).length ? levels : null } : other));
    return decide("levels", { ...others, states });
  };
  return { name: state?.name ?? null, see, prop: seen, decide: state ? decideThere : decide };
}

function inState(prop: PropDetail, state: PropDetail["states"][number]): PropDetail {
  const own = (prop.settings.levels?.states as StateSetting[]).find(({ name }) => name === state.name);
  return {
    ...prop,
    model: state.model,
    sheet: null,
    descent: null,
    levels: state.levels,
    facts: { ...prop.facts, last_distance: state.last_distance, radius: state.radius },
    settings: { ...prop.settings, levels: { ...prop.settings.levels, levels: own?.levels ?? [] } },
  };
}
