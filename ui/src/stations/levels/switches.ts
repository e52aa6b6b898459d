import type { Level, PropDetail } from "../../api/client";
import type { GameView } from "../../viewport/gameView";

/** Where a prop's levels are drawn, as they were built. */
export interface Switches {
  view: GameView;
  threshold: number;
  bias: number;
  levels: Level[];
  /** Beyond this many metres the prop is not drawn; null: it always is. */
  last: number | null;
}

export function switchesOf(prop: PropDetail): Switches {
  const { levels } = prop.settings;
  const chain = prop.facts.levels;
  return {
    view: { lines: levels.view_height, angle: levels.vertical_fov, radius: chain?.radius ?? 0.5 },
    threshold: levels.max_pixel_error,
    bias: levels.switch_bias,
    levels: prop.levels,
    last: chain?.cull_distance ?? null,
  };
}

/** What a level changes of LOD0 that can be seen, in metres: the largest of surface, silhouette and shading. */
export function visibleChange({ change }: Level): number {
  return Math.max(change.surface, change.outline, change.shading);
}

/** The same against the level above it: what jumps at the switch. */
export function visibleStep({ step }: Level): number {
  return Math.max(step.surface, step.outline, step.shading);
}

/** The level that is drawn at a distance; -1 beyond the last. */
export function drawnAt({ levels, last }: Switches, distance: number): number {
  if (last !== null && distance > last) return -1;
  let drawn = 0;
  levels.forEach((level, i) => {
    if (i > 0 && level.distance <= distance) drawn = i;
  });
  return drawn;
}
