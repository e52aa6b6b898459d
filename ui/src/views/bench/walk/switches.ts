import type { Level, PropDetail } from "../../../api/client";
import type { GameView } from "../../../viewport/gameView";

/** Where a prop's levels are drawn, as they were built. */
export interface Switches {
  view: GameView;
  threshold: number;
  bias: number;
  levels: Level[];
  /** Past this many metres the prop is not drawn; null: it always is. */
  last: number | null;
}

export function switchesOf(prop: PropDetail): Switches {
  const settings = prop.settings.levels ?? {};
  const radius = (prop.facts.radius as number | undefined) ?? 0.5;
  return {
    view: { lines: (settings.view_height as number | undefined) ?? 1080, angle: (settings.view_angle as number | undefined) ?? 60, radius },
    threshold: (settings.switch_pixels as number | undefined) ?? 1,
    bias: (settings.bias as number | undefined) ?? 1,
    levels: prop.levels,
    last: (prop.facts.last_distance as number | null | undefined) ?? null,
  };
}

/** What a level changes of LOD0 that can be seen, in metres: the largest of surface, outline and shading. */
export function visibleChange(level: Level): number {
  return Math.max(level.change?.surface ?? level.deviation, level.change?.outline ?? 0, level.change?.shading ?? 0);
}

/** The same against the level above it: what jumps at the switch. */
export function visibleStep(level: Level): number {
  return Math.max(level.step?.surface ?? 0, level.step?.outline ?? 0, level.step?.shading ?? 0);
}

/** The level that is drawn at a distance; -1 past the last. */
export function drawnAt({ levels, last }: Switches, distance: number): number {
  if (last !== null && distance > last) return -1;
  let drawn = 0;
  levels.forEach((level, i) => {
    if (i > 0 && (level.distance ?? 0) <= distance) drawn = i;
  });
  return drawn;
}
