import { useEffect, useMemo, useState } from "react";
import type { MeshStandardMaterial, Texture } from "three";

import { useShortcuts } from "../../app/shortcuts";
import { SurfaceFailed } from "../SurfaceFailed";
import { useSurface } from "../useSurface";
import { places, useBench, useLevelsShown } from "../bench";
import { ChannelFigures } from "./ChannelFigures";
import type { SheetView } from "../../surface/uvColours";
import { makeNumberedGrid } from "./numberedGrid";
import { useChannel } from "./useChannel";
import { UvsDrawn } from "./UvsDrawn";
import { SheetPanel, type Under } from "./SheetPanel";
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
  const [under, setUnder] = useState<Under>("paper");
  const [hovered, setHovered] = useState<number | null>(null);
  const [picked, setPicked] = useState<number | null>(null);
  const loaded = useSurface();
  const { surface, apart } = loaded;
  const channel = useChannel(surface, number);
  const textures = useMemo(() => findTextures(surface?.level.meshes ?? []), [surface]);
  const grid = useMemo(() => makeNumberedGrid(), []);
  useEffect(() => () => grid.dispose(), [grid]);
  useEffect(() => {
    setPicked(null);
    setHovered(null);
  }, [channel]);
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
  const marksHere = surface !== null && isFirst && number === 0;
  useLevelsShown({ model: apart });
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
        <SheetPanel
          {...{ prop, number, channel, textures, view, under, hovered, picked, marks }}
          grid={grid}
          empty={surface ? "This prop has no UVs." : loaded.isFailed ? "" : "The sheet is loading …"}
          onChannel={setChannel}
          onView={setView}
          onUnder={setUnder}
          onHover={setHovered}
          onPick={setPicked}
        />
      </places.aside.In>
    </>
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
