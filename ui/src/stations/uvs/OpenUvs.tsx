import { useEffect, useMemo, useState } from "react";
import type { MeshStandardMaterial, Texture } from "three";

import { useShortcuts } from "../../app/shortcuts";
import { Button } from "../../parts/Button";
import { count, plural } from "../../parts/format";
import { Segmented } from "../../parts/Segmented";
import { SelectBox } from "../../parts/SelectBox";
import { useSurfaceLevel } from "../../viewport/useSheet";
import { SurfaceFailed } from "../SurfaceFailed";
import { places, useBench, useLevelsShown } from "../bench";
import { ChannelFigures } from "./ChannelFigures";
import { css, SCALES, SHEET_VIEWS, type SheetView } from "../../surface/uvColours";
import { IslandBar } from "./IslandBar";
import { makeNumberedGrid } from "./numberedGrid";
import { useChannel } from "./useChannel";
import { UvsDrawn } from "./UvsDrawn";
import { UvSheet } from "./UvSheet";
import { UvAim, UvMarkBar } from "./UvMarkBar";
import { UvsSettings } from "./UvsSettings";
import { type UvTool, useUvMarks } from "./useUvMarks";

/** The model beside its UV sheet: islands found on both, coloured alike, or under a numbered grid. */
export function OpenUvs() {
  const { prop, decide, model, left, last } = useBench();
  const channels = prop.facts.uvs?.channels.length ?? 0;
  const [wanted, setChannel] = useState(0);
  const number = Math.min(wanted, Math.max(channels - 1, 0));
  const [view, setView] = useState<SheetView>("islands");
  const [under, setUnder] = useState("paper");
  const [hovered, setHovered] = useState<number | null>(null);
  const [picked, setPicked] = useState<number | null>(null);
  const [stamp, setStamp] = useState(0);
  const [drawsPadding, setDrawsPadding] = useState(false);
  const loaded = useSurfaceLevel(prop.sheet ?? null, model, prop.model ?? null);
  const { surface } = loaded;
  const channel = useChannel(surface, number);
  const textures = useMemo(() => findTextures(surface?.level.meshes ?? []), [surface]);
  const grid = useMemo(() => makeNumberedGrid(), []);
  useEffect(() => () => grid.dispose(), [grid]);
  useEffect(() => {
    setPicked(null);
    setHovered(null);
  }, [channel]);
  const first = surface?.level ?? null;
  const apart = useMemo(
    () => (model && first ? { ...model, levels: [first, ...model.levels.slice(1)] } : model),
    [model, first],
  );
  const isFirst = Math.min(left, last) === 0;
  const island = hovered ?? picked;
  const marks = useUvMarks({ prop, level: surface, channel, radius: model?.sphere.radius ?? 1, decide });
  const takeTool = (tool: UvTool) => marks.setTool(marks.tool === tool ? null : tool);
  const letGo = () => {
    if (marks.tool) marks.setTool(null);
    else if (picked !== null) setPicked(null);
    else return false;
    return true;
  };
  useShortcuts(
    {
      e: () => takeTool("seam"),
      o: () => takeTool("loop"),
      i: () => takeTool("straight"),
      escape: letGo,
    },
    { first: true },
  );
  const facts = prop.facts.uvs;
  const { settings } = prop;
  const isLight = number === 1 && Boolean(facts?.light_map);
  const padding =
    (isLight ? settings.uvs.light_map_padding : settings.uvs.padding) / (facts?.channels[number]?.pixels ?? 1024);
  const marksHere = surface !== null && isFirst && number === 0;
  useLevelsShown({ model: apart });
  const sheetUnder = under === "grid" ? grid : (textures.find(({ name }) => name === under)?.map ?? null);
  return (
    <>
      <SurfaceFailed of={loaded} />
      <places.settings.In>
        <UvsSettings prop={prop} decide={decide} />
      </places.settings.In>
      <places.evidence.In>
        <ChannelFigures prop={prop} />
      </places.evidence.In>
      {surface && channel && isFirst && (
        <places.drawn.In>
          <UvsDrawn
            level={surface}
            channel={channel}
            view={view}
            grid={under === "grid" ? grid : null}
            island={island}
            marks={marks}
            onHover={setHovered}
            onPick={setPicked}
          />
        </places.drawn.In>
      )}
      {marksHere && (
        <>
          <places.above.In>
            <UvMarkBar marks={marks} />
          </places.above.In>
          <places.overlay.In>
            <UvAim marks={marks} />
          </places.overlay.In>
        </>
      )}
      <places.aside.In>
        <section
          aria-label="UV sheet"
          className="relative h-full w-[46%] shrink-0 border-l border-rule-strong bg-paper"
        >
          {channel ? (
            <UvSheet
              channel={channel}
              view={view}
              under={sheetUnder}
              island={island}
              padding={drawsPadding ? padding : null}
              onHover={setHovered}
              onPick={setPicked}
              stamp={stamp}
            />
          ) : (
            <p className="grid h-full place-items-center text-quiet">
              {surface ? "This prop has no UVs." : loaded.isFailed ? "" : "The sheet is loading …"}
            </p>
          )}
          <div className="absolute top-3 right-3 left-3 flex flex-wrap items-center gap-2">
            {channels > 1 && (
              <Segmented
                label="UV channel"
                value={`${number}`}
                options={Array.from({ length: channels }, (_, k) => ({
                  value: `${k}`,
                  label: k === 1 && prop.facts.uvs?.light_map ? "1 light map" : `${k}`,
                }))}
                onChange={(value) => setChannel(Number(value))}
              />
            )}
            <SelectBox
              label="Under the islands"
              className="w-40"
              value={textures.some(({ name }) => name === under) || under === "grid" ? under : "paper"}
              options={[
                { value: "paper", label: "Plain" },
                { value: "grid", label: "Numbered grid" },
                ...textures.map(({ name }) => ({ value: name, label: name })),
              ]}
              onChange={setUnder}
            />
            <Button
              pressed={drawsPadding}
              onClick={() => setDrawsPadding(!drawsPadding)}
              title="half the padding around each island, as wide as its pixels are"
            >
              Padding
            </Button>
            <Button onClick={() => setStamp(stamp + 1)} title="the whole square">
              Frame
            </Button>
          </div>
          <div className="absolute right-3 bottom-3 left-3 flex flex-wrap items-end justify-between gap-2">
            <Segmented label="Sheet coloured by" value={view} options={SHEET_VIEWS} onChange={setView} />
            {picked !== null && channel && number === 0 ? (
              <IslandBar
                island={picked}
                of={channel.count}
                marks={marks}
                canLock={settings.uvs.method === "source" || settings.uvs.method === "repack"}
              />
            ) : (
              <Reading view={view} island={island} count={channel?.count ?? 0} />
            )}
          </div>
        </section>
      </places.aside.In>
    </>
  );
}

function Reading({ view, island, count: islands }: { view: SheetView; island: number | null; count: number }) {
  const scale = SCALES[view];
  return (
    <div className="rounded border border-rule bg-sheet/90 px-2 py-1 text-sm">
      {scale ? (
        <ul className="flex flex-wrap gap-x-3">
          {scale.stops.map(({ color, label }) => (
            <li key={label} className="flex items-center gap-1 whitespace-nowrap">
              <span className="inline-block size-3 border border-rule" style={{ background: css(color) }} />
              {label}
            </li>
          ))}
        </ul>
      ) : (
        <span className="figure">
          {island === null ? plural(islands, "island") : `island ${count(island + 1)} of ${count(islands)}`}
        </span>
      )}
    </div>
  );
}

/** The colour maps of a level's materials, by the material's name. */
function findTextures(meshes: { own: unknown }[]): { name: string; map: Texture }[] {
  const found = new Map<string, Texture>();
  for (const { own } of meshes) {
    const material = own as MeshStandardMaterial;
    if (material.map) found.set(material.name, material.map);
  }
  return [...found].map(([name, map]) => ({ name, map }));
}
