import { isPowerOfTen, metres as inMetres } from "../../../parts/format";
import type { SightScale } from "./scale";

/** Lines at round distances and changes, and the change that is not seen. */
export function Axes({ scale, threshold, foot }: { scale: SightScale; threshold: number; foot: number }) {
  const { x, y, left, right, top, bottom } = scale;
  const round = scale.ticks.filter((metres) => [1, 2, 5].some((factor) => isPowerOfTen(metres / factor)));
  return (
    <>
      {[0.1, 1, 10].map((px) => (
        <g key={px}>
          <line x1={left} x2={right} y1={y(px)} y2={y(px)} stroke="var(--rule)" />
          <text x={left - 8} y={y(px) + 4} textAnchor="end" className="figure" fontSize="11" fill="var(--quiet)">
            {px} px
          </text>
        </g>
      ))}
      <line x1={left} x2={right} y1={y(threshold)} y2={y(threshold)} stroke="var(--mark)" strokeDasharray="5 4" />
      {round.map((metres) => (
        <g key={metres}>
          <line x1={x(metres)} x2={x(metres)} y1={top} y2={bottom} stroke="var(--rule)" />
          <text x={x(metres)} y={foot} textAnchor="middle" className="figure" fontSize="11" fill="var(--quiet)">
            {inMetres(metres)}
          </text>
        </g>
      ))}
    </>
  );
}
