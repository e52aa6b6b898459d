import type { EngineAsset } from "../../api/client";
import { Button } from "../../parts/Button";
import { SeverityCounts, SeverityShape } from "../../parts/Severity";
import { NumberField } from "../../parts/TextField";
import type { Sight } from "./Walk";

interface AssetRowProps {
  asset: EngineAsset;
  sight: Sight | undefined;
  isChosen: boolean;
  onChoose: () => void;
  onGo: () => void;
  onPlace: (place: { x: number; z: number; turn: number }) => void;
  onForget: () => void;
}

/** An imported prop: how its file stands, the level that is seen, and where it is placed. */
export function AssetRow({ asset, sight, isChosen, onChoose, onGo, onPlace, onForget }: AssetRowProps) {
  const { seen, findings, change, error, x, z, turn } = asset;
  const counts = { stop: 0, warning: 0, info: 0 };
  for (const { severity } of findings) counts[severity] += 1;
  const place = { x, z, turn };
  return (
    <li className={`border-b border-rule px-4 py-1.5 ${isChosen ? "bg-mark-tint" : ""}`}>
      <div className="flex items-center gap-2">
        <button type="button" aria-pressed={isChosen} onClick={onChoose} className="min-w-0 grow text-left">
          <span className="block truncate font-medium">{seen?.prop ?? asset.path}</span>
          <span className="figure block truncate text-sm text-quiet">{asset.path}</span>
        </button>
        {change === "changed" && <span className="text-sm text-mark">changed</span>}
        {change === "vanished" && (
          <span className="flex items-center gap-1 text-sm text-stop">
            <SeverityShape severity="stop" /> vanished
          </span>
        )}
        {sight && <span className="figure text-sm text-quiet">LOD{sight.level}</span>}
        <Button kind="quiet" disabled={!asset.model} onClick={onGo}>
          Go
        </Button>
      </div>
      {error && <p className="text-sm text-stop">{error}</p>}
      {isChosen && (
        <div className="space-y-1 py-1">
          <SeverityCounts {...counts} />
          {!asset.model && change !== "vanished" && !error && (
            <p className="text-sm text-quiet">Read, and not drawn: the walk draws glTF.</p>
          )}
          <div className="flex items-end gap-2">
            <NumberField label="x" unit="m" value={x} onCommit={(next) => onPlace({ ...place, x: next })} />
            <NumberField label="z" unit="m" value={z} onCommit={(next) => onPlace({ ...place, z: next })} />
            <NumberField label="turn" unit="°" value={turn} onCommit={(next) => onPlace({ ...place, turn: next })} />
          </div>
          <Button kind="quiet" onClick={onForget}>
            Take out of the scene
          </Button>
        </div>
      )}
    </li>
  );
}
