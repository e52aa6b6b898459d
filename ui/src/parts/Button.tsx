import clsx from "clsx";
import type { ButtonHTMLAttributes } from "react";

interface ButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  kind?: "primary" | "plain" | "quiet" | "mark";
  pressed?: boolean;
}

/** The one button. `primary` is the page's main act, `quiet` has no frame. */
export function Button({ kind = "plain", pressed, className, type = "button", ...rest }: ButtonProps) {
  return (
    <button
      type={type}
      aria-pressed={pressed}
      className={clsx(
        "inline-flex h-7 items-center gap-1.5 rounded px-2.5 font-medium whitespace-nowrap transition-colors",
        "disabled:cursor-not-allowed disabled:opacity-45",
        kind === "primary" && "bg-ink text-sheet hover:opacity-90",
        kind === "plain" && "border border-rule-control bg-sheet hover:border-ink",
        kind === "quiet" && "text-quiet hover:text-ink",
        kind === "mark" && "bg-mark text-sheet hover:opacity-90",
        pressed && "!border-ink !bg-ink !text-sheet",
        className,
      )}
      {...rest}
    />
  );
}
