import { getNonce } from "get-nonce";
import { Select } from "radix-ui";

interface SelectBoxProps<T extends string> {
  label: string;
  value: T;
  options: { value: T; label: string }[];
  onChange: (value: T) => void;
  className?: string;
}

/** A drop-down of named choices. */
export function SelectBox<T extends string>({ label, value, options, onChange, className }: SelectBoxProps<T>) {
  return (
    <Select.Root value={value} onValueChange={(next) => onChange(next as T)}>
      <Select.Trigger
        aria-label={label}
        className={`inline-flex h-7 items-center justify-between gap-2 rounded border border-rule-control bg-sheet px-2 hover:border-ink ${className ?? ""}`}
      >
        <Select.Value />
        <Select.Icon aria-hidden className="text-quiet">
          ▾
        </Select.Icon>
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={4}
          className="z-50 rounded border border-rule-strong bg-sheet p-1"
        >
          <Select.Viewport nonce={getNonce()}>
            {options.map((option) => (
              <Select.Item
                key={option.value}
                value={option.value}
                className="cursor-pointer rounded px-2 py-1 outline-none data-[highlighted]:bg-mark-tint data-[state=checked]:font-semibold"
              >
                <Select.ItemText>{option.label}</Select.ItemText>
              </Select.Item>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}
