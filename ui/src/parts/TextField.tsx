import { useEffect, useId, useRef, useState } from "react";

interface TextFieldProps {
  label: string;
  value: string;
  placeholder?: string;
  /** Shown behind the field. */
  unit?: string | undefined;
  /** Beside the label instead of below it. */
  inline?: boolean;
  /** Commits while it is typed, where the typing rests. */
  live?: boolean;
  /** Without its label, which stands elsewhere. */
  bare?: boolean;
  /** Where it answers with false the text is none that may be, and is put back. */
  onCommit: (value: string) => unknown;
}

const REST = 300;

/** One line of text; `onCommit` fires on Enter and when the field is left, if something changed; Escape puts it back. */
export function TextField({ label, value, placeholder, unit, inline, bare, live, onCommit }: TextFieldProps) {
  const [draft, setDraft] = useState(value);
  const id = useId();
  useEffect(() => setDraft(value), [value]);
  useEffect(() => {
    if (!live || draft === value) return;
    const rests = setTimeout(() => onCommit(draft), REST);
    return () => clearTimeout(rests);
  }, [live, draft, value, onCommit]);
  const isPutBack = useRef(false);
  const commit = () => {
    if (isPutBack.current || (draft !== value && onCommit(draft) === false)) setDraft(value);
    isPutBack.current = false;
  };
  return (
    <div className={inline ? "flex items-center justify-between gap-2" : "space-y-1"}>
      {!bare && (
        <label htmlFor={id} className={`block text-sm text-quiet ${inline ? "whitespace-nowrap" : ""}`}>
          {label}
        </label>
      )}
      <span className={`flex items-center gap-1.5 ${inline ? "w-28" : ""}`}>
        <input
          id={id}
          aria-label={bare ? label : undefined}
          value={draft}
          placeholder={placeholder}
          onChange={(event) => setDraft(event.target.value)}
          onBlur={commit}
          onKeyDown={(event) => {
            isPutBack.current = event.key === "Escape";
            if (event.key === "Enter") commit();
            if (event.key === "Escape") event.currentTarget.blur();
          }}
          className="figure h-7 w-full min-w-0 rounded border border-rule-control bg-sheet px-2 placeholder:text-quiet"
        />
        {unit && <span className="min-w-6 text-sm text-quiet">{unit}</span>}
      </span>
    </div>
  );
}

/** What a number may be: at least `low`, more than `above`, at most `high`. */
export interface NumberLimits {
  low?: number;
  above?: number;
  high?: number;
  whole?: boolean;
}

interface NumberFieldProps extends Omit<TextFieldProps, "value" | "onCommit"> {
  value: number;
  /** What the value is multiplied by to be shown in its unit. */
  factor?: number;
  limits?: NumberLimits;
  onCommit: (value: number) => void;
}

/** A number; beyond its limits it becomes the nearest that is within them, and what is none is put back. */
export function NumberField({ value, factor = 1, limits = {}, onCommit, ...rest }: NumberFieldProps) {
  const [stamp, setStamp] = useState(0);
  return (
    <TextField
      key={stamp}
      {...rest}
      value={String(Number((value * factor).toPrecision(7)))}
      onCommit={(text) => {
        const number = numberIn(text, limits, factor);
        if (number !== undefined && number !== value) onCommit(number);
        // The field shows what is decided, also where that is what it was.
        setStamp(stamp + 1);
      }}
    />
  );
}

interface OptionalNumberFieldProps extends Omit<NumberFieldProps, "value" | "factor" | "onCommit"> {
  value: number | null;
  onCommit: (value: number | null) => void;
}

/** A number as in `NumberField`, or none where it is left empty. */
export function OptionalNumberField({ value, limits = {}, onCommit, ...rest }: OptionalNumberFieldProps) {
  const [stamp, setStamp] = useState(0);
  return (
    <TextField
      key={stamp}
      {...rest}
      value={value === null ? "" : String(value)}
      onCommit={(text) => {
        const number = text.trim() ? numberIn(text, limits, 1) : null;
        if (number !== undefined && number !== value) onCommit(number);
        setStamp(stamp + 1);
      }}
    />
  );
}

/** The number that a text says, within its limits; undefined where it says none, or one that may not be. */
function numberIn(text: string, limits: NumberLimits, factor: number): number | undefined {
  const { low = -Infinity, above = -Infinity, high = Infinity, whole = false } = limits;
  const typed = Number(text.replace(",", ".")) / factor;
  const number = Math.min(Math.max(whole ? Math.round(typed) : typed, low), high);
  return text.trim() && Number.isFinite(typed) && number > above ? number : undefined;
}
