import { useId } from "react";

import type { Level } from "../../../api/client";
import { distanceOf, type GameView } from "../../../viewport/gameView";
import { visibleChange } from "../switches";
import { PX_HIGH, PX_LOW, type SightScale } from "./scale";

/** Pieces in which a curve is drawn. */
const PIECES = 32;
/** Pixels of change along a curve, from above the chart to below it. */
const ALONG = Array.from({ length: PIECES + 1 }, (_, i) => 2 * PX_HIGH * (PX_LOW / 4 / PX_HIGH) ** (i / PIECES));

/** What each level changes, at every distance. */
export function Curves({ scale, levels, view }: { scale: SightScale; levels: Level[]; view: GameView }) {
  const { along, up, left, right, top, bottom } = scale;
  const area = useId();
  return (
    <>
      <clipPath id={area}>
        <rect x={left} y={top} width={right - left} height={bottom - top} />
      </clipPath>
      <g clipPath={`url(#${area})`}>
        {levels.map((level) => {
          const length = visibleChange(level);
          return (
            length > 0 && (
              <polyline
                key={level.index}
                points={ALONG.map((px) => `${along(distanceOf(view, length, px))},${up(px)}`).join(" ")}
                fill="none"
                stroke={`var(--curve-${level.index})`}
                strokeWidth="2"
              />
            )
          );
        })}
      </g>
    </>
  );
}
