import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useState } from "react";

import { client, type Engine, take } from "../../api/client";
import { engineQuery, keys, projectQuery } from "../../api/queries";
import { useActivity } from "../../app/activity";
import { Button } from "../../parts/Button";
import { CheckRow } from "../../parts/CheckRow";
import { plural } from "../../parts/format";
import { EmptyState, Loading } from "../../parts/Notes";
import { Progress } from "../../parts/Progress";
import { RangeSlider } from "../../parts/RangeSlider";
import { Segmented } from "../../parts/Segmented";
import { SelectBox } from "../../parts/SelectBox";
import { TextField } from "../../parts/TextField";
import { useNotify } from "../../parts/Toasts";
import { useFolder } from "../shipment/folder";
import { AssetRow } from "./AssetRow";
import { SeenPanel } from "./SeenPanel";
import { useAssets } from "./useAssets";
import { type Sight, Walk } from "./Walk";

const NO_ASSETS: Engine["assets"] = [];

/** A simulated engine project: what is delivered into its folder is noticed, imported, and walked among. */
export default function EngineView() {
  const [folder, setFolder] = useFolder();
  const { data: engine, error } = useQuery(engineQuery(folder));
  const { data: project } = useQuery(projectQuery);
  const { jobs } = useActivity();
  const queries = useQueryClient();
  const notify = useNotify();
  const [chosen, setChosen] = useState<number | null>(null);
  const [shows, setShows] = useState<"walk" | "seen">("walk");
  const [bias, setBias] = useState(1);
  const [showsLevels, setShowsLevels] = useState(false);
  const [showsProxies, setShowsProxies] = useState(false);
  const [goal, setGoal] = useState<{ id: number; stamp: number } | null>(null);
  const [sights, setSights] = useState<Sight[]>([]);
  const [stoppedBy, setStoppedBy] = useState<number | null>(null);
  const assets = engine?.assets ?? NO_ASSETS;
  const { drawn, failed } = useAssets(assets);
  const see = useCallback((now: Sight[], by: number | null) => {
    setSights(now);
    setStoppedBy(by);
  }, []);
  const change = useMutation({
    mutationFn: (ask: () => Promise<Engine>) => ask(),
    onSuccess: (next) => queries.setQueryData(keys.engine(folder), next),
    onError: (problem) => notify({ title: problem.message, isProblem: true }),
  });
  if (error) return <EmptyState title="This folder cannot be watched">{error.message}</EmptyState>;
  if (!engine || !project) return <Loading what="the engine project" />;
  const path = { project_id: engine.id };
  const setUp = (body: { destination: string; indices: number }) =>
    change.mutate(async () => take(await client.PATCH("/api/engine/{project_id}", { params: { path }, body })));
  const due = engine.noticed.length + assets.filter((asset) => asset.change === "changed").length;
  const gone = assets.filter((asset) => asset.change === "vanished").length;
  const shown = assets.find(({ id }) => id === chosen) ?? null;
  const near = [...sights].sort((a, b) => a.distance - b.distance)[0];
  const nearest = assets.find(({ id }) => id === near?.id);
  const job = jobs.find(({ kind, subject }) => kind === "import" && subject === engine.id);
  return (
    <div className="flex h-full">
      <aside className="flex w-92 shrink-0 flex-col border-r border-rule-strong bg-sheet">
        <div className="space-y-2 border-b border-rule px-4 py-3">
          <h1 className="text-lg font-semibold">Engine project</h1>
          <div className="flex items-center gap-2">
            <span className="figure text-quiet" title={engine.root}>
              {engine.root.split("/").at(-1)}/
            </span>
            <TextField bare label="Folder" value={folder} onCommit={setFolder} />
          </div>
          <div className="flex items-center gap-2">
            <SelectBox
              label="Reads as"
              className="w-58 [&>span]:truncate"
              value={engine.destination}
              options={project.destinations.map((d) => ({ value: d.name, label: d.title }))}
              onChange={(destination) => setUp({ destination, indices: engine.indices })}
            />
            <Segmented
              label="Indices"
              value={String(engine.indices)}
              options={[
                { value: "16", label: "16", hint: "16-bit indices: 65 535 vertices a mesh" },
                { value: "32", label: "32 bit", hint: "32-bit indices" },
              ]}
              onChange={(indices) => setUp({ destination: engine.destination, indices: Number(indices) })}
            />
          </div>
          <div className="flex items-center gap-3">
            <Button
              kind="mark"
              disabled={!due || engine.is_importing || change.isPending}
              onClick={() =>
                change.mutate(async () =>
                  take(await client.POST("/api/engine/{project_id}/import", { params: { path } })),
                )
              }
            >
              {engine.is_importing ? "importing …" : `Import ${plural(due, "file")}`}
            </Button>
            <span className="text-sm text-quiet">
              {engine.noticed.length} new, {due - engine.noticed.length} changed, {gone} vanished
            </span>
          </div>
          {engine.is_importing && <Progress label="import" fraction={job?.fraction ?? 0} />}
          {engine.error && (
            <p role="alert" className="text-stop">
              The last import stopped: {engine.error}
            </p>
          )}
        </div>
        <ul className="min-h-0 grow overflow-auto">
          {engine.noticed.map((name) => (
            <li key={name} className="flex items-center gap-2 border-b border-rule px-4 py-1.5">
              <span className="figure grow truncate">{name}</span>
              <span className="text-sm text-mark">new</span>
            </li>
          ))}
          {assets.map((asset) => (
            <AssetRow
              key={asset.id}
              asset={asset}
              sight={sights.find(({ id }) => id === asset.id)}
              isChosen={asset.id === chosen}
              onChoose={() => setChosen(asset.id === chosen ? null : asset.id)}
              onGo={() => {
                setShows("walk");
                setGoal({ id: asset.id, stamp: Date.now() });
              }}
              onPlace={(body) =>
                change.mutate(async () =>
                  take(
                    await client.PATCH("/api/engine/{project_id}/assets/{asset_id}", {
                      params: { path: { ...path, asset_id: asset.id } },
                      body,
                    }),
                  ),
                )
              }
              onForget={() =>
                change.mutate(async () =>
                  take(
                    await client.DELETE("/api/engine/{project_id}/assets/{asset_id}", {
                      params: { path: { ...path, asset_id: asset.id } },
                    }),
                  ),
                )
              }
            />
          ))}
          {!assets.length && !engine.noticed.length && (
            <li className="p-4 text-quiet">Nothing lies in this folder yet. Deliver a shipment into it.</li>
          )}
        </ul>
      </aside>
      <div className="flex min-w-0 grow flex-col">
        <div className="flex flex-wrap items-center gap-4 border-b border-rule bg-sheet px-4 py-2">
          <Segmented
            label="Show"
            value={shows}
            options={[
              { value: "walk", label: "Walk" },
              { value: "seen", label: "Read back", hint: "what the engine sees of the chosen asset" },
            ]}
            onChange={setShows}
          />
          {shows === "walk" && (
            <>
              <span className="flex w-56 items-center gap-2">
                <span className="text-sm text-quiet">bias</span>
                <RangeSlider
                  label="Level bias"
                  value={Math.log2(bias)}
                  min={-2}
                  max={2}
                  step={0.25}
                  onChange={(power) => setBias(2 ** power)}
                  onCommit={(power) => setBias(2 ** power)}
                />
                <span className="figure w-12 text-sm">×{Number(bias.toPrecision(2))}</span>
              </span>
              <CheckRow label="Colour by level" checked={showsLevels} onChange={setShowsLevels} />
              <CheckRow label="Collision" checked={showsProxies} onChange={setShowsProxies} />
              <span aria-live="polite" className="ml-auto text-sm text-quiet">
                {stoppedBy !== null
                  ? `stopped by the collision of ${assets.find(({ id }) => id === stoppedBy)?.seen?.prop ?? ""}`
                  : nearest && near
                    ? `${nearest.seen?.prop ?? nearest.path}: LOD${near.level} at ${near.distance.toFixed(1)} m`
                    : "arrow keys or W A S D walk, drag looks around"}
              </span>
            </>
          )}
        </div>
        <div className="relative min-h-0 grow overflow-auto bg-sheet">
          {shows === "walk" ? (
            <>
              <Walk
                assets={assets}
                drawn={drawn}
                bias={bias}
                showsLevels={showsLevels}
                showsProxies={showsProxies}
                chosen={chosen}
                goal={goal}
                onSight={see}
              />
              {failed.length > 0 && (
                <p role="alert" className="absolute bottom-3 left-4 text-stop">
                  {plural(failed.length, "file")} could not be drawn:{" "}
                  {failed.map((at) => at.split("/").at(-1)).join(", ")}
                </p>
              )}
            </>
          ) : shown?.seen ? (
            <div className="p-4">
              <h2 className="mb-3 text-lg font-semibold">{shown.seen.prop}</h2>
              <SeenPanel
                seen={shown.seen}
                findings={shown.findings}
                limit={engine.vertex_limit}
                wantsLightMap={false}
              />
            </div>
          ) : (
            <EmptyState title="Choose an asset">
              {shown?.error || "What the engine sees of it is shown here, from its very bytes."}
            </EmptyState>
          )}
        </div>
      </div>
    </div>
  );
}
