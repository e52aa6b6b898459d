/** A line of text in the chart, with a rim that keeps it apart from what it stands on. */
export function Words({
  x,
  y,
  text,
  anchor,
  strong,
}: {
  x: number;
  y: number;
  text: string;
  anchor?: "end";
  strong?: boolean;
}) {
  return (
    <text
      x={x}
      y={y}
      textAnchor={anchor}
      fontSize={strong ? 12 : 11}
      fontWeight={strong ? 600 : undefined}
      className={strong ? undefined : "figure"}
      fill={strong ? "var(--ink)" : "var(--quiet)"}
      stroke="var(--sheet)"
      strokeWidth="3"
      paintOrder="stroke"
    >
      {text}
    </text>
  );
}
