import { Slider } from "radix-ui";

interface RangeSliderProps {
  label: string;
  value: number;
  min: number;
  max: number;
  step: number;
  onChange: (value: number) => void;
  onCommit: (value: number) => void;
}

/** One value on a scale; `onCommit` fires once when the handle is let go. */
export function RangeSlider({ label, value, min, max, step, onChange, onCommit }: RangeSliderProps) {
  return (
    <Slider.Root
      value={[value]}
      min={min}
      max={max}
      step={step}
      onValueChange={([next]) => next !== undefined && onChange(next)}
      onValueCommit={([next]) => next !== undefined && onCommit(next)}
      className="relative flex h-7 w-full touch-none items-center"
    >
      <Slider.Track className="relative h-px grow bg-rule-control">
        <Slider.Range className="absolute -top-px h-[3px] bg-mark" />
      </Slider.Track>
      <Slider.Thumb aria-label={label} className="block size-3.5 rounded-full border-2 border-mark bg-sheet" />
    </Slider.Root>
  );
}
