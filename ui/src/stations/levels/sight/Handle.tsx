import {
  type KeyboardEvent,
  type PointerEvent,
  type ReactNode,
  type RefObject,
  useEffect,
  useRef,
  useState,
} from "react";

import { metres as inMetres } from "../../../parts/format";
import { useRested } from "../../../parts/useRested";
import type { SightScale } from "./scale";

const KEY_STEP = 1.05;

interface HandleProps {
  label: string;
  metres: number;
  scale: SightScale;
  onCommit: (metres: number) => void;
  draw: (metres: number, isHeld: boolean) => ReactNode;
}

/** A distance that is dragged along the chart or moved with the arrows; it is decided when it is let go. */
export function Handle({ label, metres, scale: { from, to, metresAt }, onCommit, draw }: HandleProps) {
  const [held, setHeld] = useState<number | null>(null);
  const latest: RefObject<number | null> = useRef(null);
  useEffect(() => setHeld(null), [metres]);
  const keys = useRested((next) => {
    latest.current = null;
    if (next !== metres) onCommit(next);
  });
  const shown = held ?? metres;
  const move = (next: number) => {
    latest.current = Math.min(Math.max(next, from), to);
    setHeld(latest.current);
    return latest.current;
  };
  const commit = () => {
    if (latest.current !== null && latest.current !== metres) onCommit(latest.current);
    latest.current = null;
  };
  const letGo = () => {
    latest.current = null;
    setHeld(null);
  };
  const drag = (event: PointerEvent<SVGGElement>) => {
    const chart = event.currentTarget.ownerSVGElement;
    if (!chart || !event.currentTarget.hasPointerCapture(event.pointerId)) return;
    move(metresAt(event.clientX - chart.getBoundingClientRect().left));
  };
  const onKey = (event: KeyboardEvent) => {
    const factor = { ArrowLeft: 1 / KEY_STEP, ArrowRight: KEY_STEP, PageDown: 0.5, PageUp: 2 }[event.key];
    if (factor === undefined) return;
    event.preventDefault();
    keys.rest(move(shown * factor));
  };
  return (
    <g
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuemin={from}
      aria-valuemax={to}
      aria-valuenow={Number(shown.toPrecision(3))}
      aria-valuetext={inMetres(shown)}
      onKeyDown={onKey}
      onBlur={keys.flush}
      onPointerDown={(event: PointerEvent<SVGGElement>) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={drag}
      onPointerUp={commit}
      onPointerCancel={letGo}
      style={{ cursor: "ew-resize", touchAction: "none" }}
    >
      {draw(shown, held !== null)}
    </g>
  );
}
