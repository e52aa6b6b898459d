import { scaleLog } from "d3-scale";

import type { PropDetail } from "../../api/client";
import { dimensions, isPowerOfTen, length, plural } from "../../parts/format";
import type { Decide } from "../bench";
import { Heading } from "../../parts/Heading";
import { useSize } from "../../parts/useSize";

const PAD = { left: 40, right: 40, top: 26, bottom: 24 };
/** Pixels on either side that a name may take. */
const ROOM = 130;

/** The longest side of this prop beside those of the board, of a standing person, and of other scale factors. */
export function Sizes({ prop, decide }: { prop: PropDetail; decide: Decide }) {
  const { ref, width, height } = useSize<HTMLDivElement>();
  const { placement } = prop.facts;
  const size = placement?.size ?? [0, 0, 0];
  const longest = Math.max(...size, 1e-6);
  const guesses = placement?.guesses ?? [];
  const all = [
    longest,
    1.8,
    ...prop.peers.map((peer) => peer.longest),
    ...guesses.map((guess) => guess.longest),
    ...(placement?.usual ?? []),
  ];
  const x = scaleLog()
    .domain([Math.min(...all), Math.max(...all) * 1.05])
    .nice()
    .range([PAD.left, PAD.left + Math.max(width - PAD.left - PAD.right, 50)]);
  const ticks = x.ticks(5).filter(isPowerOfTen);
  const middle = PAD.top + (height - PAD.top - PAD.bottom) / 2;
  const usual = placement?.usual;
  return (
    <div className="flex h-full flex-col">
      <Heading
        question="Is it the right size?"
        reading={`${dimensions(size)}. Longest sides: this prop and ${plural(prop.peers.length, "other")} of the board; the band is usual for its kind.${guesses.length ? " A hollow dot is where a scale factor would bring it; click to apply it." : ""}`}
      />
      <div ref={ref} className="relative min-h-0 grow">
        <svg
          width={width}
          height={height}
          className="absolute inset-0"
          role="img"
          aria-label={`Longest side ${length(longest)} beside other props`}
        >
          {usual && (
            <rect
              x={x(usual[0])}
              width={Math.max(x(usual[1]) - x(usual[0]), 0)}
              y={PAD.top}
              height={Math.max(height - PAD.top - PAD.bottom, 0)}
              fill="var(--rule)"
              opacity={0.45}
            />
          )}
          {ticks.map((metres) => (
            <g key={metres}>
              <line x1={x(metres)} x2={x(metres)} y1={PAD.top} y2={height - PAD.bottom} stroke="var(--rule-strong)" />
              <text
                x={x(metres)}
                y={height - 7}
                textAnchor="middle"
                className="figure"
                fontSize="11"
                fill="var(--quiet)"
              >
                {length(metres)}
              </text>
            </g>
          ))}
          <line
            x1={x(1.8)}
            x2={x(1.8)}
            y1={PAD.top - 6}
            y2={height - PAD.bottom}
            stroke="var(--quiet)"
            strokeDasharray="2 3"
          />
          <text x={x(1.8)} y={PAD.top - 10} textAnchor="middle" fontSize="11" fill="var(--quiet)">
            a person, 1.8 m
          </text>
          {prop.peers.map((peer, i) => (
            <circle
              key={`${peer.name} ${i}`}
              cx={x(peer.longest)}
              cy={middle + (((i * 7) % 5) - 2) * 9}
              r={3.5}
              fill="var(--lod-4)"
            >
              <title>
                {peer.name}: {length(peer.longest)}
              </title>
            </circle>
          ))}
          <circle cx={x(longest)} cy={middle} r={6} fill="var(--mark)" />
          <line x1={x(longest)} x2={x(longest)} y1={PAD.top + 16} y2={middle} stroke="var(--mark)" />
          <text
            x={x(longest)}
            y={PAD.top + 12}
            textAnchor={x(longest) < ROOM ? "start" : x(longest) > width - ROOM ? "end" : "middle"}
            fontSize="12"
            fontWeight="600"
            fill="var(--mark)"
          >
            {prop.name} {length(longest)}
          </text>
        </svg>
        {guesses.map((guess) => (
          <button
            key={guess.factor}
            type="button"
            className="figure absolute -translate-x-1/2 rounded-full border-2 border-mark bg-sheet px-1.5 text-sm text-mark hover:bg-mark-tint"
            style={{ left: x(guess.longest), top: middle + 14 }}
            title={length(guess.longest)}
            onClick={() => decide("placement", { scale: prop.settings.placement.scale * guess.factor })}
          >
            × {guess.factor}
          </button>
        ))}
      </div>
    </div>
  );
}
