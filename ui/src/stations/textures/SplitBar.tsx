import type { PointerEvent, RefObject } from "react";

const STEP = 0.02;

interface SplitBarProps {
  frame: RefObject<HTMLElement | null>;
  /** Share of the frame's width. */
  at: number;
  onMove: (at: number) => void;
}

/** The line at which source and result meet, dragged or moved by the arrow keys. */
export function SplitBar({ frame, at, onMove }: SplitBarProps) {
  const moved = (share: number) => onMove(Math.min(Math.max(share, 0), 1));
  const drag = (event: PointerEvent) => {
    const box = frame.current?.getBoundingClientRect();
    if (box && event.buttons) moved((event.clientX - box.left) / box.width);
  };
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label="where source and result meet"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(100 * at)}
      className="absolute inset-y-0 w-4 -translate-x-1/2 cursor-ew-resize touch-none"
      style={{ left: `${100 * at}%` }}
      onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={drag}
      onKeyDown={(event) => {
        if (event.key === "ArrowLeft") moved(at - STEP);
        else if (event.key === "ArrowRight") moved(at + STEP);
        else if (event.key === "Home") moved(0);
        else if (event.key === "End") moved(1);
        else return;
        event.preventDefault();
        event.stopPropagation();
      }}
    >
      <span aria-hidden className="absolute inset-y-0 left-1/2 w-0.5 -translate-x-1/2 bg-mark" />
      <span
        aria-hidden
        className="absolute top-1/2 left-1/2 grid h-8 w-5 -translate-x-1/2 -translate-y-1/2 place-items-center rounded bg-mark text-xs text-sheet"
      >
        ↔
      </span>
    </div>
  );
}
