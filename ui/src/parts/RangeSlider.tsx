import { Slider } from "radix-ui";
import { useRef } from "react";

import { useRested } from "./useRested";

interface RangeSliderProps {
  label: string;
  value: number;
  min: number;
  max: number;
  step: number;
  onChange: (value: number) => void;
  onCommit: (value: number) => void;
}

/** One value on a scale; `onCommit` fires once when the handle is let go, or when the keys that move it rest. */
export function RangeSlider({ label, value, min, max, step, onChange, onCommit }: RangeSliderProps) {
  const keys = useRested(onCommit);
  const isByKey = useRef(false);
  return (
    <Slider.Root
      value={[value]}
      min={min}
      max={max}
      step={step}
      onValueChange={([next]) => next !== undefined && onChange(next)}
      onKeyDownCapture={() => (isByKey.current = true)}
      onPointerDownCapture={() => (isByKey.current = false)}
      onBlur={keys.flush}
      onValueCommit={([next]) => {
        if (next === undefined) return;
        if (isByKey.current) keys.rest(next);
        else onCommit(next);
      }}
      className="relative flex h-7 w-full touch-none items-center"
    >
      <Slider.Track className="relative h-px grow bg-rule-control">
        <Slider.Range className="absolute -top-px h-[3px] bg-mark" />
      </Slider.Track>
      <Slider.Thumb aria-label={label} className="block size-3.5 rounded-full border-2 border-mark bg-sheet" />
    </Slider.Root>
  );
}
