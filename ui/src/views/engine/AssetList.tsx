import type { Engine } from "../../api/client";
import { AssetRow } from "./AssetRow";
import type { EngineWays } from "./useEngineWays";
import type { Sight } from "./Walk";

interface AssetListProps {
  engine: Engine;
  sights: Sight[];
  chosen: number | null;
  ways: EngineWays;
  onChoose: (id: number | null) => void;
  onGo: (id: number) => void;
}

/** What lies in the folder: files that are new, and props that were imported. */
export function AssetList({ engine, sights, chosen, ways, onChoose, onGo }: AssetListProps) {
  return (
    <ul className="min-h-0 grow overflow-auto">
      {engine.noticed.map((name) => (
        <li key={name} className="flex items-center gap-2 border-b border-rule px-4 py-1.5">
          <span className="figure grow truncate">{name}</span>
          <span className="text-sm text-mark">new</span>
        </li>
      ))}
      {engine.assets.map((asset) => (
        <AssetRow
          key={asset.id}
          asset={asset}
          sight={sights.find(({ id }) => id === asset.id)}
          isChosen={asset.id === chosen}
          onChoose={() => onChoose(asset.id === chosen ? null : asset.id)}
          onGo={() => onGo(asset.id)}
          onPlace={(place) => ways.place(asset.id, place)}
          onForget={() => ways.forget(asset.id)}
        />
      ))}
      {!engine.assets.length && !engine.noticed.length && (
        <li className="p-4 text-quiet">Nothing lies in this folder yet. Deliver a shipment into it.</li>
      )}
    </ul>
  );
}
