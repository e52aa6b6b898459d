import { ToggleGroup } from "radix-ui";

interface SegmentedProps<T extends string> {
  label: string;
  value: T;
  options: { value: T; label: string; hint?: string }[];
  onChange: (value: T) => void;
}

/** One of a few choices, all in sight. */
export function Segmented<T extends string>({ label, value, options, onChange }: SegmentedProps<T>) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(next) => next && onChange(next as T)}
      className="inline-flex h-7 overflow-hidden rounded border border-rule-control bg-sheet"
    >
      {options.map((option) => (
        <ToggleGroup.Item
          key={option.value}
          value={option.value}
          title={option.hint}
          className="border-r border-rule px-2.5 font-medium last:border-r-0 hover:bg-paper data-[state=on]:bg-ink data-[state=on]:text-sheet"
        >
          {option.label}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
