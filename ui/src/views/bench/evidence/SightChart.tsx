import type { PropDetail } from "../../../api/client";
import { count } from "../../../parts/format";
import { FIELD_OF_VIEW } from "../../../viewport/Stage";
import { type EyeStore, useEye } from "../../../viewport/viewState";
import { Heading } from "./Heading";
import { useSize } from "./useSize";

const VIEW_LINES = 1080;
const PAD = { left: 52, right: 24, top: 18, bottom: 22 };
const [PX_LOW, PX_HIGH] = [0.1, 10];

/** Pixels that a length covers at a distance, both in metres. */
function pixels(length: number, distance: number): number {
  return (length / (2 * distance * Math.tan((FIELD_OF_VIEW * Math.PI) / 360))) * VIEW_LINES;
}

/** Visible deviation of each level against the viewer's distance; where a curve meets one pixel it cannot be told from LOD0. */
export function SightChart({ prop, eye }: { prop: PropDetail; eye: EyeStore }) {
  const { ref, width, height } = useSize<HTMLDivElement>();
  const { distance } = useEye(eye);
  const size = Math.max(...((prop.facts.size as number[] | undefined) ?? [1]), 1e-3);
  const levels = prop.levels.filter((level) => level.index > 0 && level.deviation > 0);
  const reaches = levels.map((level) => ({ level, at: pixels(level.deviation, 1) }));
  const from = 10 ** Math.floor(Math.log10(size * 0.8));
  const to = Math.max(from * 100, 10 ** Math.ceil(Math.log10(Math.max(...reaches.map(({ at }) => at), 1e-6) * 1.2)));
  const x = (metres: number) =>
    PAD.left + ((Math.log10(metres) - Math.log10(from)) / (Math.log10(to) - Math.log10(from))) * Math.max(width - PAD.left - PAD.right, 50);
  const y = (px: number) =>
    PAD.top + ((Math.log10(PX_HIGH) - Math.log10(px)) / (Math.log10(PX_HIGH) - Math.log10(PX_LOW))) * Math.max(height - PAD.top - PAD.bottom, 30);
  const ticks: number[] = [];
  for (let power = from; power <= to * 1.001; power *= 10) ticks.push(power, ...(power < to ? [2 * power, 5 * power] : []));
  const clamped = Math.min(Math.max(distance, from), to);
  const best = [...reaches].reverse().find(({ at }) => at <= distance);
  return (
    <div className="flex h-full flex-col">
      <Heading
        question="From where can a level not be told from LOD0?"
        reading={`Deviation in pixels against distance, at ${VIEW_LINES} lines and ${FIELD_OF_VIEW}°. Below the dashed line it is under one pixel. The upright line is where your eye is.`}
      />
      <div ref={ref} className="relative min-h-0 grow">
        {levels.length > 0 && (
        <svg width={width} height={height} className="absolute inset-0" role="img" aria-label="Deviation of the levels in pixels against distance">
          <clipPath id="sight-area">
            <rect x={PAD.left} y={PAD.top} width={Math.max(width - PAD.left - PAD.right, 0)} height={Math.max(height - PAD.top - PAD.bottom, 0)} />
          </clipPath>
          {[0.1, 1, 10].map((px) => (
            <g key={px}>
              <line x1={PAD.left} x2={width - PAD.right} y1={y(px)} y2={y(px)} stroke={px === 1 ? "var(--mark)" : "var(--rule)"} strokeDasharray={px === 1 ? "5 4" : undefined} />
              <text x={PAD.left - 8} y={y(px) + 4} textAnchor="end" className="figure" fontSize="11" fill="var(--quiet)">
                {px} px
              </text>
            </g>
          ))}
          {ticks.map((metres) => (
            <g key={metres}>
              <line x1={x(metres)} x2={x(metres)} y1={PAD.top} y2={height - PAD.bottom} stroke="var(--rule)" />
              <text x={x(metres)} y={height - 6} textAnchor="middle" className="figure" fontSize="11" fill="var(--quiet)">
                {metres >= 1 ? count(metres) : Number(metres.toPrecision(1))} m
              </text>
            </g>
          ))}
          <g clipPath="url(#sight-area)">
            {levels.map((level) => (
              <line
                key={level.index}
                x1={x(from)}
                y1={y(pixels(level.deviation, from))}
                x2={x(to)}
                y2={y(pixels(level.deviation, to))}
                stroke={`var(--curve-${level.index})`}
                strokeWidth="2"
              />
            ))}
          </g>
          {reaches.map(({ level, at }) =>
            at >= from && at <= to ? (
              <g key={level.index}>
                <circle cx={x(at)} cy={y(1)} r="5" fill="var(--sheet)" stroke={`var(--curve-${level.index})`} strokeWidth="2.5" />
                <text x={x(at) + 8} y={y(1) - 7} fontSize="12" fontWeight="600" fill="var(--ink)" stroke="var(--sheet)" strokeWidth="3" paintOrder="stroke">
                  LOD{level.index}
                </text>
                <text x={x(at) + 8} y={y(1) + 15} fontSize="11" className="figure" fill="var(--quiet)" stroke="var(--sheet)" strokeWidth="3" paintOrder="stroke">
                  {at < 10 ? at.toPrecision(2) : count(Number(at.toPrecision(2)))} m
                </text>
              </g>
            ) : null,
          )}
          <g>
            <line x1={x(clamped)} x2={x(clamped)} y1={PAD.top} y2={height - PAD.bottom} stroke="var(--ink)" strokeWidth="1.5" />
            <text x={x(clamped) + 6} y={PAD.top - 6} fontSize="11.5" fill="var(--ink)" stroke="var(--sheet)" strokeWidth="3" paintOrder="stroke">
              you · {distance.toFixed(distance < 10 ? 1 : 0)} m{best ? ` · LOD${best.level.index} would do` : ""}
            </text>
          </g>
        </svg>
        )}
        {!levels.length && <p className="grid h-full place-items-center text-quiet">there are no levels below LOD0 to compare</p>}
      </div>
    </div>
  );
}
