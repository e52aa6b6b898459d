import { useEffect, useId, useState } from "react";

interface TextFieldProps {
  label: string;
  value: string;
  placeholder?: string;
  /** Shown behind the field. */
  unit?: string;
  /** Beside the label instead of below it. */
  inline?: boolean;
  onCommit: (value: string) => void;
}

/** One line of text; `onCommit` fires on Enter and when the field is left, if something changed. */
export function TextField({ label, value, placeholder, unit, inline, onCommit }: TextFieldProps) {
  const [draft, setDraft] = useState(value);
  const id = useId();
  useEffect(() => setDraft(value), [value]);
  const commit = () => draft !== value && onCommit(draft);
  return (
    <div className={inline ? "flex items-center justify-between gap-2" : "space-y-1"}>
      <label htmlFor={id} className={`block text-sm text-quiet ${inline ? "whitespace-nowrap" : ""}`}>
        {label}
      </label>
      <span className={`flex items-center gap-1.5 ${inline ? "w-28" : ""}`}>
        <input
          id={id}
          value={draft}
          placeholder={placeholder}
          onChange={(event) => setDraft(event.target.value)}
          onBlur={commit}
          onKeyDown={(event) => event.key === "Enter" && commit()}
          className="figure h-7 w-full min-w-0 rounded border border-rule-control bg-sheet px-2 placeholder:text-quiet"
        />
        {unit && <span className="text-sm text-quiet">{unit}</span>}
      </span>
    </div>
  );
}

interface NumberFieldProps extends Omit<TextFieldProps, "value" | "onCommit"> {
  value: number;
  onCommit: (value: number) => void;
}

/** A number; what is none is put back. */
export function NumberField({ value, onCommit, ...rest }: NumberFieldProps) {
  const [stamp, setStamp] = useState(0);
  return (
    <TextField
      key={stamp}
      {...rest}
      value={String(Number(value.toPrecision(7)))}
      onCommit={(text) => {
        const number = Number(text.replace(",", "."));
        if (text.trim() && Number.isFinite(number)) onCommit(number);
        else setStamp(stamp + 1);
      }}
    />
  );
}
