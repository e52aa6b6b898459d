import { Checkbox } from "./Checkbox";

interface CheckRowProps {
  label: string;
  hint?: string;
  checked: boolean;
  onChange: (checked: boolean) => void;
}

/** A checkbox with its words beside it. */
export function CheckRow({ label, hint, checked, onChange }: CheckRowProps) {
  return (
    <div className="flex items-center gap-2" title={hint}>
      <Checkbox label={label} checked={checked} onChange={onChange} />
      <button type="button" tabIndex={-1} aria-hidden className="text-left" onClick={() => onChange(!checked)}>
        {label}
      </button>
    </div>
  );
}
