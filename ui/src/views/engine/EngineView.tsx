import { useQuery } from "@tanstack/react-query";
import { useCallback, useState } from "react";

import type { Engine } from "../../api/client";
import { engineQuery, projectQuery } from "../../api/queries";
import { plural } from "../../parts/format";
import { EmptyState, Loading } from "../../parts/Notes";
import { Segmented } from "../../parts/Segmented";
import { useFolder } from "../shipment/folder";
import { AssetList } from "./AssetList";
import { ProjectPanel } from "./ProjectPanel";
import { SeenPanel } from "./SeenPanel";
import { useAssets } from "./useAssets";
import { useEngineWays } from "./useEngineWays";
import { type Sight, Walk } from "./Walk";
import { type WalkLook, WalkTools } from "./WalkTools";

const NO_ASSETS: Engine["assets"] = [];
const SHOWS = [
  { value: "walk" as const, label: "Walk" },
  { value: "seen" as const, label: "Read back", hint: "what the engine sees of the chosen asset" },
];

/** A simulated engine project: what is delivered into its folder is noticed, imported, and walked among. */
export default function EngineView() {
  const [folder, setFolder] = useFolder();
  const { data: engine, error } = useQuery(engineQuery(folder));
  const { data: project } = useQuery(projectQuery);
  const ways = useEngineWays(folder, engine);
  const [chosen, setChosen] = useState<number | null>(null);
  const [shows, setShows] = useState<"walk" | "seen">("walk");
  const [look, setLook] = useState<WalkLook>({ bias: 1, showsLevels: false, showsProxies: false });
  const [goal, setGoal] = useState<{ id: number; stamp: number } | null>(null);
  const [sights, setSights] = useState<Sight[]>([]);
  const [stoppedBy, setStoppedBy] = useState<number | null>(null);
  const assets = engine?.assets ?? NO_ASSETS;
  const { drawn, failed } = useAssets(assets);
  const see = useCallback((now: Sight[], by: number | null) => {
    setSights(now);
    setStoppedBy(by);
  }, []);
  if (error) return <EmptyState title="This folder cannot be watched">{error.message}</EmptyState>;
  if (!engine || !project) return <Loading what="the engine project" />;
  const go = (id: number) => {
    setShows("walk");
    setGoal({ id, stamp: Date.now() });
  };
  return (
    <div className="flex h-full">
      <aside className="flex w-92 shrink-0 flex-col border-r border-rule-strong bg-sheet">
        <ProjectPanel {...{ engine, folder, ways }} destinations={project.destinations} onFolder={setFolder} />
        <AssetList {...{ engine, sights, chosen, ways }} onChoose={setChosen} onGo={go} />
      </aside>
      <div className="flex min-w-0 grow flex-col">
        <div className="flex flex-wrap items-center gap-4 border-b border-rule bg-sheet px-4 py-2">
          <Segmented label="Show" value={shows} options={SHOWS} onChange={setShows} />
          {shows === "walk" && (
            <WalkTools
              {...{ look, assets, sights, stoppedBy }}
              onLook={(changes) => setLook((old) => ({ ...old, ...changes }))}
            />
          )}
        </div>
        <div className="relative min-h-0 grow overflow-auto bg-sheet">
          {shows === "walk" ? (
            <>
              <Walk {...{ assets, drawn, chosen, goal, ...look }} onSight={see} />
              {failed.length > 0 && (
                <p role="alert" className="absolute bottom-3 left-4 text-stop">
                  {plural(failed.length, "file")} could not be drawn:{" "}
                  {failed.map((at) => at.split("/").at(-1)).join(", ")}
                </p>
              )}
            </>
          ) : (
            <ReadBack asset={assets.find(({ id }) => id === chosen)} limit={engine.vertex_limit} />
          )}
        </div>
      </div>
    </div>
  );
}

/** What the engine sees of an asset. */
function ReadBack({ asset, limit }: { asset: Engine["assets"][number] | undefined; limit: number }) {
  if (!asset?.seen) {
    return (
      <EmptyState title="Choose an asset">
        {asset?.error || "What the engine sees of it is shown here, from its very bytes."}
      </EmptyState>
    );
  }
  return (
    <div className="p-4">
      <h2 className="mb-3 text-lg font-semibold">{asset.seen.prop}</h2>
      <SeenPanel seen={asset.seen} findings={asset.findings} limit={limit} wantsLightMap={false} />
    </div>
  );
}
