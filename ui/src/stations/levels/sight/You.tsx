import { metres as inMetres } from "../../../parts/format";
import { type EyeStore, useEye } from "../../../viewport/viewState";
import { drawnAt, type Switches } from "../switches";
import type { SightScale } from "./scale";

/** The viewer's own distance, which changes with every frame of the view, and what is drawn there. */
export function You({ eye, scale, switches }: { eye: EyeStore; scale: SightScale; switches: Switches }) {
  const { distance } = useEye(eye);
  const at = scale.x(distance);
  const level = drawnAt(switches, distance);
  return (
    <g pointerEvents="none">
      <line x1={at} x2={at} y1={scale.top} y2={scale.bottom} stroke="var(--ink)" strokeWidth="1.5" />
      <text
        x={at + 6}
        y={scale.top - 6}
        fontSize="11.5"
        fill="var(--ink)"
        stroke="var(--sheet)"
        strokeWidth="3"
        paintOrder="stroke"
      >
        you · {inMetres(distance)} · {level < 0 ? "not drawn" : `LOD${level}`}
      </text>
    </g>
  );
}
