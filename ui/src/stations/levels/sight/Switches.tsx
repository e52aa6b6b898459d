import type { Level } from "../../../api/client";
import { metres as inMetres, pixels } from "../../../parts/format";
import { pixelsOf } from "../../../viewport/gameView";
import { type Switches, visibleChange } from "../switches";
import { Handle } from "./Handle";
import { heightOf, type SightScale } from "./scale";
import { namesAt, type SwitchLabel } from "./switchLabels";
import { Words } from "./Words";

interface SwitchProps {
  scale: SightScale;
  switches: Switches;
  level: Level;
  /** None where the next level begins in the same place. */
  label: SwitchLabel | null | undefined;
}

/** Where a level of the base begins, which a state shares: proposed, and not to be moved. */
export function BaseSwitch({ scale, switches, level, label }: SwitchProps) {
  const [at, place] = [scale.x(level.distance), heightOf(scale, switches, level, level.distance)];
  return (
    <g>
      <circle cx={at} cy={place} r="3.5" fill={`var(--curve-${level.index})`} />
      {label && (
        <Label
          at={at}
          y={place}
          side={label.side}
          name={namesAt(label.first, level.index)}
          words={`${inMetres(level.distance)} · base`}
        />
      )}
    </g>
  );
}

/** Where a level begins: a handle on its curve, and a dot where it was proposed once it is elsewhere. */
export function OwnSwitch({
  scale,
  switches,
  level,
  label,
  isMoved,
  onMove,
}: SwitchProps & { isMoved: boolean; onMove: (metres: number) => void }) {
  const color = `var(--curve-${level.index})`;
  return (
    <Handle
      label={`Metres from which LOD${level.index} is drawn`}
      metres={level.distance}
      scale={scale}
      onCommit={onMove}
      draw={(metres, isHeld) => {
        const [at, place] = [scale.x(metres), heightOf(scale, switches, level, metres)];
        const cost = pixelsOf(switches.view, visibleChange(level), metres / switches.bias);
        return (
          <g>
            {isMoved && (
              <circle
                cx={scale.x(level.proposed)}
                cy={heightOf(scale, switches, level, level.proposed)}
                r="2.5"
                fill={color}
              />
            )}
            <circle cx={at} cy={place} r="11" fill="transparent" />
            <circle cx={at} cy={place} r={isHeld ? 7 : 5.5} fill="var(--sheet)" stroke={color} strokeWidth="2.5" />
            {(label || isHeld) && (
              <Label
                at={at}
                y={place}
                side={label?.side ?? "right"}
                name={namesAt(isHeld || !label ? level.index : label.first, level.index)}
                words={`${inMetres(metres)}${isHeld || isMoved ? ` · ${pixels(cost)}` : ""}`}
              />
            )}
          </g>
        );
      }}
    />
  );
}

/** From where on the prop is not drawn any more. */
export function LastSwitch({
  scale,
  metres,
  onMove,
}: {
  scale: SightScale;
  metres: number;
  onMove: (metres: number) => void;
}) {
  const { x, right, top, bottom } = scale;
  const height = bottom - top;
  return (
    <Handle
      label="Metres beyond which the prop is not drawn"
      metres={metres}
      scale={scale}
      onCommit={onMove}
      draw={(now, isHeld) => (
        <g>
          <rect
            x={x(now)}
            y={top}
            width={Math.max(right - x(now), 0)}
            height={height}
            fill="var(--quiet)"
            opacity="0.13"
          />
          <rect x={x(now) - 7} y={top} width="14" height={height} fill="transparent" />
          <line
            x1={x(now)}
            x2={x(now)}
            y1={top}
            y2={bottom}
            stroke="var(--quiet)"
            strokeWidth={isHeld ? 2.5 : 1.5}
            strokeDasharray="2 3"
          />
          <Words x={x(now) - 6} y={bottom - 6} anchor="end" text={`not drawn beyond ${inMetres(now)}`} />
        </g>
      )}
    />
  );
}

function Label({
  at,
  y,
  side,
  name,
  words,
}: {
  at: number;
  y: number;
  side: SwitchLabel["side"];
  name: string;
  words: string;
}) {
  const anchor = side === "left" ? "end" : undefined;
  const place = side === "left" ? at - 10 : at + 10;
  const down = side === "below" ? 30 : 0;
  return (
    <>
      <Words x={place} y={y - 7 + (down && down + 7)} text={name} anchor={anchor} strong />
      <Words x={place} y={y + 15 + down} text={words} anchor={anchor} />
    </>
  );
}
