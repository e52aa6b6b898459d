import { useMemo, useState } from "react";

import type { PropDetail } from "../../api/client";
import type { Decide } from "../bench";

interface SeenState {
  /** The state that is shown; null: the base. */
  name: string | null;
  see: (name: string | null) => void;
  /** The prop as it is in that state: its own model and levels, and the settings of those. */
  prop: PropDetail;
  /** Decides about the levels that are shown. */
  decide: Decide;
}

/** Which of the prop's states the levels are shown of. */
export function useSeenState(prop: PropDetail, decide: Decide): SeenState {
  const [name, see] = useState<string | null>(null);
  const state = prop.states.find((other) => other.name === name);
  const seen = useMemo(() => (state ? inState(prop, state) : prop), [prop, state]);
  const decideThere: Decide = (station, changes) => {
    if (!state || station !== "levels" || !("levels" in changes)) return decide(station, changes);
    const { levels, ...others } = changes as Partial<PropDetail["settings"]["levels"]>;
    const states = prop.settings.levels.states.map((other) =>
      other.name === state.name ? { ...other, levels: levels?.length ? levels : null } : other,
    );
    return decide("levels", { ...others, states });
  };
  return { name: state?.name ?? null, see, prop: seen, decide: state ? decideThere : decide };
}

function inState(prop: PropDetail, state: PropDetail["states"][number]): PropDetail {
  const own = prop.settings.levels.states.find(({ name }) => name === state.name);
  const chain = prop.facts.levels;
  return {
    ...prop,
    model: state.model,
    sheet: null,
    descent: null,
    levels: state.levels,
    facts: {
      ...prop.facts,
      levels: chain ? { ...chain, cull_distance: state.cull_distance, radius: state.radius } : null,
    },
    settings: { ...prop.settings, levels: { ...prop.settings.levels, levels: own?.levels ?? [] } },
  };
}
