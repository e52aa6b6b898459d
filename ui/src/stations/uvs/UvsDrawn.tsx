import { useMemo } from "react";
import { BufferAttribute, BufferGeometry, DoubleSide, Mesh, MeshBasicMaterial, type Texture } from "three";

import { useTheme } from "../../app/theme";
import { islandOf, trianglesOf, type UvIslands } from "../../surface/uvs";
import { Lines } from "../../viewport/Lines";
import { Patch } from "../../viewport/Patch";
import type { SurfaceLevel } from "../../viewport/surfaceLevel";
import { SurfacePicker } from "../../viewport/SurfacePicker";
import { useDrawn } from "../../viewport/useDrawn";
import { type SheetView, triangleColours } from "../../surface/uvColours";
import type { UvMarks } from "./useUvMarks";

interface UvsDrawnProps {
  level: SurfaceLevel;
  channel: UvIslands;
  view: SheetView;
  /** Drawn on the surface through the channel; null for the colours of the view. */
  grid: Texture | null;
  island: number | null;
  marks: UvMarks;
  onHover: (island: number | null) => void;
  onPick: (island: number | null) => void;
}

/** The sheet's colours, or the numbered grid, on the model; the island in hand, and what is under the pointer. */
export function UvsDrawn({ level, channel, view, grid, island, marks, onHover, onPick }: UvsDrawnProps) {
  const night = useTheme() === "night";
  const { positions } = level.surface;
  const { object } = level.level;
  const ink = night ? "#e9e4d2" : "#14233c";
  const tinted = useMemo(() => {
    const geometry = new BufferGeometry();
    geometry.setAttribute("position", new BufferAttribute(positions, 3));
    if (grid) geometry.setAttribute("uv", new BufferAttribute(channel.uvs, 2));
    else geometry.setAttribute("color", new BufferAttribute(triangleColours(channel, view), 3));
    const material = new MeshBasicMaterial({
      ...(grid ? { map: grid } : { vertexColors: true }),
      transparent: true,
      opacity: grid ? 0.92 : 0.75,
      side: DoubleSide,
      depthWrite: false,
      toneMapped: false,
    });
    const mesh = new Mesh(geometry, material);
    mesh.renderOrder = 1;
    return mesh;
  }, [positions, channel, view, grid]);
  useDrawn(tinted, level.level.object);
  const chosen = useMemo(() => (island === null ? null : trianglesOf(channel, island)), [channel, island]);
  return (
    <>
      {chosen && (
        <Patch
          positions={positions}
          triangles={chosen}
          color={night ? "#f06bb5" : "#a81e6e"}
          opacity={0.6}
          within={level.level.object}
        />
      )}
      <Lines points={marks.drawn.seams} color={ink} width={3} within={object} />
      <Lines points={marks.drawn.straight} color={night ? "#7fd3c0" : "#0f6b58"} width={4} within={object} />
      <Lines points={marks.aimLines} color={night ? "#f06bb5" : "#a81e6e"} width={4} through within={object} />
      <SurfacePicker
        surface={level}
        onHover={(hit) => (marks.tool ? marks.onHover(hit) : onHover(hit ? islandOf(channel, hit.triangle) : null))}
        onPick={(hit) => (marks.tool ? marks.onPick(hit) : onPick(islandOf(channel, hit.triangle)))}
      />
    </>
  );
}
