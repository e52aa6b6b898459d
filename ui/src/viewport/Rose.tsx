import { type EyeStore, useEye } from "./viewState";

/** A small north-rose: where the prop's front lies, seen from where the eye is. */
export function Rose({ eye }: { eye: EyeStore }) {
  const { bearing } = useEye(eye);
  return (
    <svg
      viewBox="-34 -30 68 60"
      className="h-15 w-17"
      role="img"
      aria-label={`front of the prop, seen from ${Math.round(bearing)} degrees`}
    >
      <circle r="19" fill="none" stroke="var(--rule-control)" strokeWidth="0.8" />
      <g transform={`rotate(${bearing})`}>
        <path d="M0 19L4 0H-4z" fill="var(--ink)" />
        <path d="M0 -19L4 0H-4z" fill="none" stroke="var(--ink)" strokeWidth="0.8" />
        <g transform={`translate(0 25) rotate(${-bearing})`}>
          <text textAnchor="middle" dominantBaseline="central" fontSize="9.5" fill="var(--ink)">
            front
          </text>
        </g>
      </g>
    </svg>
  );
}
