import type { Decide, Settings } from "../bench";
import { Button } from "../../parts/Button";

interface ChannelListProps {
  chosen: Settings["uvs"]["channels"];
  /** How many the source has. */
  count: number;
  decide: Decide;
}

/** Which of the source's channels ship, and in which order: moved up, copied, left out. */
export function ChannelList({ chosen, count, decide }: ChannelListProps) {
  const all = Array.from({ length: count }, (_, channel) => channel);
  const rows = chosen ?? all;
  const set = (next: number[]) => {
    const isAll = next.length === count && next.every((channel, place) => channel === place);
    decide("uvs", { channels: isAll ? null : next });
  };
  const raised = (place: number) => {
    const [moved] = rows.slice(place);
    return moved === undefined ? rows : rows.toSpliced(place, 1).toSpliced(place - 1, 0, moved);
  };
  return (
    <div role="group" aria-label="Channels that ship" className="space-y-1">
      <div className="text-sm text-quiet">Channels that ship</div>
      {rows.map((channel, place) => (
        <div key={place} className="flex items-center justify-between gap-2">
          <span className="figure">
            {place} ← the source’s {channel}
          </span>
          <span className="flex">
            {place > 0 && (
              <button
                type="button"
                aria-label={`Swap channels ${place - 1} and ${place}`}
                title="swap with the one above"
                className="px-1.5 text-mark hover:underline"
                onClick={() => set(raised(place))}
              >
                ↑
              </button>
            )}
            {rows.length < 8 && (
              <button
                type="button"
                aria-label={`Copy channel ${place}`}
                title="once more, behind the others"
                className="px-1.5 text-mark hover:underline"
                onClick={() => set([...rows, channel])}
              >
                copy
              </button>
            )}
            {rows.length > 1 && (
              <button
                type="button"
                aria-label={`Leave channel ${place} out`}
                title="leave out"
                className="px-1.5 text-mark hover:underline"
                onClick={() => set(rows.filter((_, i) => i !== place))}
              >
                ✕
              </button>
            )}
          </span>
        </div>
      ))}
      {chosen && (
        <Button className="w-full justify-center" onClick={() => decide("uvs", { channels: null })}>
          As the source has them
        </Button>
      )}
    </div>
  );
}
