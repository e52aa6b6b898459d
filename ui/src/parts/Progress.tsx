interface ProgressProps {
  label: string;
  fraction: number;
}

/** A thin bar with its meaning for those who cannot see it. */
export function Progress({ label, fraction }: ProgressProps) {
  const percent = Math.round(fraction * 100);
  return (
    <div
      role="progressbar"
      aria-label={label}
      aria-valuenow={percent}
      aria-valuemin={0}
      aria-valuemax={100}
      className="h-[3px] w-full bg-rule"
    >
      <div className="h-full bg-mark transition-[width] duration-150" style={{ width: `${percent}%` }} />
    </div>
  );
}
