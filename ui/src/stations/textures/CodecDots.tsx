import { CODECS, type TextureRow } from "./words";

const WIDTH = 204;
const HEIGHT = 128;
const LEFT = 28;
const BOTTOM = 24;
const RIGHT = 14;
const TOP = 14;
const MOST_BITS = 8;
/** Pixels from one label to the next below it. */
const LINE = 12;

/** Quality against bits, a dot a codec: what each would give of this texture. */
export function CodecDots({ row }: { row: TextureRow }) {
  const best = Math.ceil(Math.max(...row.trials.map(({ psnr }) => psnr), 40) / 10) * 10;
  const low = Math.floor(Math.min(...row.trials.map(({ psnr }) => psnr), 30) / 10) * 10;
  const x = (bits: number) => LEFT + ((WIDTH - LEFT - RIGHT) * bits) / MOST_BITS;
  const y = (psnr: number) => HEIGHT - BOTTOM - ((HEIGHT - BOTTOM - TOP) * (psnr - low)) / (best - low);
  const labels = labelHeights(row.trials, y);
  const ticks = Array.from({ length: (best - low) / 10 + 1 }, (_, k) => low + 10 * k).filter(
    (_, k, all) => all.length < 5 || k % 2 === 0,
  );
  return (
    <figure className="m-0 shrink-0 border-l border-rule px-3 pt-2">
      <figcaption className="text-sm text-quiet">PSNR in dB by bits a pixel</figcaption>
      <svg
        width={WIDTH}
        height={HEIGHT}
        role="img"
        aria-label={row.trials
          .map(
            ({ codec, psnr, bits_a_pixel: bits }) => `${CODECS[codec]} ${psnr.toFixed(1)} dB at ${bits} bits a pixel`,
          )
          .join(", ")}
      >
        {ticks.map((tick) => (
          <g key={tick}>
            <line x1={LEFT} x2={WIDTH - RIGHT} y1={y(tick)} y2={y(tick)} stroke="var(--rule)" />
            <text x={LEFT - 5} y={y(tick) + 4} textAnchor="end" className="figure fill-quiet text-[11px]">
              {tick}
            </text>
          </g>
        ))}
        {[4, 8].map((bits) => (
          <text key={bits} x={x(bits)} y={HEIGHT - 8} textAnchor="middle" className="figure fill-quiet text-[11px]">
            {bits}
          </text>
        ))}
        {row.trials.map((trial) => {
          const used = row.made?.codec === trial.codec;
          return (
            <g key={trial.codec}>
              <circle
                cx={x(trial.bits_a_pixel)}
                cy={y(trial.psnr)}
                r={used ? 6 : 4.5}
                fill={used ? "var(--mark)" : "var(--curve-3)"}
              />
              <text
                x={x(trial.bits_a_pixel) - 9}
                y={(labels.get(trial.codec) ?? 0) + 4}
                textAnchor="end"
                className={`fill-ink text-[11px] ${used ? "font-semibold" : ""}`}
              >
                {CODECS[trial.codec]} {trial.psnr.toFixed(1)}
              </text>
            </g>
          );
        })}
      </svg>
    </figure>
  );
}

/** Where the labels stand: beside their dots, those of as many bits moved apart where they would lie on each other. */
function labelHeights(trials: TextureRow["trials"], y: (psnr: number) => number): Map<string, number> {
  const found = new Map<string, number>();
  const last = new Map<number, number>();
  for (const { codec, psnr, bits_a_pixel: bits } of [...trials].sort((a, b) => b.psnr - a.psnr)) {
    const height = Math.max(y(psnr), (last.get(bits) ?? -LINE) + LINE);
    last.set(bits, height);
    found.set(codec, height);
  }
  return found;
}
