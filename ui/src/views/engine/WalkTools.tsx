import type { EngineAsset } from "../../api/client";
import { CheckRow } from "../../parts/CheckRow";
import { RangeSlider } from "../../parts/RangeSlider";
import type { Sight } from "./Walk";

/** How the walk is drawn. */
export interface WalkLook {
  bias: number;
  showsLevels: boolean;
  showsProxies: boolean;
}

interface WalkToolsProps {
  look: WalkLook;
  onLook: (changes: Partial<WalkLook>) => void;
  assets: EngineAsset[];
  sights: Sight[];
  stoppedBy: number | null;
}

/** What changes the walk's picture, and what is near in it. */
export function WalkTools({ look, onLook, assets, sights, stoppedBy }: WalkToolsProps) {
  const setBias = (power: number) => onLook({ bias: 2 ** power });
  return (
    <>
      <span className="flex w-56 items-center gap-2">
        <span className="text-sm text-quiet">bias</span>
        <RangeSlider
          label="Level bias"
          value={Math.log2(look.bias)}
          min={-2}
          max={2}
          step={0.25}
          onChange={setBias}
          onCommit={setBias}
        />
        <span className="figure w-12 text-sm">×{Number(look.bias.toPrecision(2))}</span>
      </span>
      <CheckRow
        label="Colour by level"
        checked={look.showsLevels}
        onChange={(showsLevels) => onLook({ showsLevels })}
      />
      <CheckRow label="Collision" checked={look.showsProxies} onChange={(showsProxies) => onLook({ showsProxies })} />
      <span aria-live="polite" className="ml-auto text-sm text-quiet">
        {reading(assets, sights, stoppedBy)}
      </span>
    </>
  );
}

function reading(assets: EngineAsset[], sights: Sight[], stoppedBy: number | null): string {
  const nameOf = (of: number) => {
    const asset = assets.find(({ id }) => id === of);
    return asset?.seen?.prop ?? asset?.path;
  };
  if (stoppedBy !== null) return `stopped by the collision of ${nameOf(stoppedBy) ?? ""}`;
  const near = [...sights].sort((a, b) => a.distance - b.distance)[0];
  const name = near && nameOf(near.id);
  if (!near || !name) return "arrow keys or W A S D walk, drag looks around";
  return `${name}: LOD${near.level} at ${near.distance.toFixed(1)} m`;
}
