import type { PropDetail } from "../../../api/client";
import { dimensions } from "../../../parts/format";
import type { PlacementValues } from "../settings/PlacementSettings";
import type { Decide } from "../useDecisions";
import { Heading } from "./Heading";
import { useSize } from "./useSize";

const PAD = { left: 40, right: 40, top: 26, bottom: 24 };

interface Placement {
  guesses: { factor: number; longest: number }[];
  usual: [number, number];
}

/** The longest side of this prop beside those of the board, of a standing person, and of other scale factors. */
export function Sizes({ prop, decide }: { prop: PropDetail; decide: Decide }) {
  const { ref, width, height } = useSize<HTMLDivElement>();
  const size = (prop.facts.size as number[] | undefined) ?? [0, 0, 0];
  const placement = prop.facts.placement as Placement | undefined;
  const settings = prop.settings.placement as unknown as PlacementValues;
  const longest = Math.max(...size, 1e-6);
  const guesses = placement?.guesses ?? [];
  const all = [longest, 1.8, ...prop.peers.map((peer) => peer.longest), ...guesses.map((guess) => guess.longest), ...(placement?.usual ?? [])];
  const from = 10 ** Math.floor(Math.log10(Math.min(...all)));
  const to = 10 ** Math.ceil(Math.log10(Math.max(...all) * 1.05));
  const x = (metres: number) => PAD.left + ((Math.log10(metres) - Math.log10(from)) / Math.log10(to / from)) * Math.max(width - PAD.left - PAD.right, 50);
  const ticks: number[] = [];
  for (let power = from; power <= to * 1.001; power *= 10) ticks.push(power);
  const middle = PAD.top + (height - PAD.top - PAD.bottom) / 2;
  const usual = placement?.usual;
  return (
    <div className="flex h-full flex-col">
      <Heading
        question="Is it the right size?"
        reading={`${dimensions(size)} m. Longest sides in metres: this prop and the ${prop.peers.length} others of the board; the band is usual for its kind.${guesses.length ? " A hollow dot is where a scale factor would bring it; click to apply it." : ""}`}
      />
      <div ref={ref} className="relative min-h-0 grow">
        <svg width={width} height={height} className="absolute inset-0" role="img" aria-label={`Longest side ${longest.toPrecision(3)} metres beside other props`}>
          {usual && <rect x={x(usual[0])} width={Math.max(x(usual[1]) - x(usual[0]), 0)} y={PAD.top} height={Math.max(height - PAD.top - PAD.bottom, 0)} fill="var(--rule)" opacity={0.45} />}
          {ticks.map((metres) => (
            <g key={metres}>
              <line x1={x(metres)} x2={x(metres)} y1={PAD.top} y2={height - PAD.bottom} stroke="var(--rule-strong)" />
              <text x={x(metres)} y={height - 7} textAnchor="middle" className="figure" fontSize="11" fill="var(--quiet)">
                {metres >= 1 ? `${metres} m` : metres >= 0.01 ? `${Math.round(metres * 100)} cm` : `${Number((metres * 1000).toPrecision(1))} mm`}
              </text>
            </g>
          ))}
          <line x1={x(1.8)} x2={x(1.8)} y1={PAD.top - 6} y2={height - PAD.bottom} stroke="var(--quiet)" strokeDasharray="2 3" />
          <text x={x(1.8)} y={PAD.top - 10} textAnchor="middle" fontSize="11" fill="var(--quiet)">
            a person, 1.8 m
          </text>
          {prop.peers.map((peer, i) => (
            <circle key={`${peer.name} ${i}`} cx={x(peer.longest)} cy={middle + (((i * 7) % 5) - 2) * 9} r={3.5} fill="var(--lod-4)">
              <title>
                {peer.name}: {peer.longest.toPrecision(3)} m
              </title>
            </circle>
          ))}
          <circle cx={x(longest)} cy={middle} r={6} fill="var(--mark)" />
          <line x1={x(longest)} x2={x(longest)} y1={PAD.top + 16} y2={middle} stroke="var(--mark)" />
          <text x={x(longest)} y={PAD.top + 12} textAnchor="middle" fontSize="12" fontWeight="600" fill="var(--mark)">
            {prop.name} {longest.toPrecision(3)} m
          </text>
        </svg>
        {guesses.map((guess) => (
          <button
            key={guess.factor}
            type="button"
            className="figure absolute -translate-x-1/2 rounded-full border-2 border-mark bg-sheet px-1.5 text-sm text-mark hover:bg-mark-tint"
            style={{ left: x(guess.longest), top: middle + 14 }}
            title={`${guess.longest.toPrecision(3)} m`}
            onClick={() => decide("placement", { scale: settings.scale * guess.factor })}
          >
            × {guess.factor}
          </button>
        ))}
      </div>
    </div>
  );
}
