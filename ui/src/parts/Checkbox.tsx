import { Checkbox as Box } from "radix-ui";

interface CheckboxProps {
  label: string;
  checked: boolean | "indeterminate";
  onChange: (checked: boolean) => void;
}

/** A box to tick; its label is for screen readers, the row beside it says the rest. */
export function Checkbox({ label, checked, onChange }: CheckboxProps) {
  return (
    <Box.Root
      aria-label={label}
      checked={checked}
      onCheckedChange={(next) => onChange(next === true)}
      className="grid size-4 place-items-center rounded-sm border border-rule-control bg-sheet data-[state=checked]:border-mark data-[state=checked]:bg-mark data-[state=indeterminate]:border-mark"
    >
      <Box.Indicator className="text-[11px] leading-none text-sheet">
        {checked === "indeterminate" ? <span className="block h-0.5 w-2 bg-mark" /> : "✓"}
      </Box.Indicator>
    </Box.Root>
  );
}
