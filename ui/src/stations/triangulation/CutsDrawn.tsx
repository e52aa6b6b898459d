import { useTheme } from "../../app/theme";
import { Lines } from "../../viewport/Lines";
import { Patch } from "../../viewport/Patch";
import type { SurfaceLevel } from "../../viewport/surfaceLevel";
import { SurfacePicker } from "../../viewport/SurfacePicker";
import type { Cuts } from "./useCuts";

/** Polygons with the diagonals that cut them: as chosen, as an engine's fan has them, and where they differ. */
export function CutsDrawn({ cuts, level }: { cuts: Cuts; level: SurfaceLevel }) {
  const night = useTheme() === "night";
  const { lines, fan, view, aimLines } = cuts;
  const chosen = level.level.object;
  const ink = night ? "#e8eefa" : "#14233c";
  const mark = night ? "#f06bb5" : "#a81e6e";
  const depth = night ? "#9fd4ff" : "#1b4f70";
  const { positions } = level.surface;
  if (!lines) return null;
  return (
    <>
      <Lines points={lines.outlines} color={ink} opacity={0.85} within={chosen} />
      <Lines points={lines.diagonals} color={ink} opacity={0.32} within={chosen} />
      {fan && (
        <>
          <Lines points={lines.outlines} color={ink} opacity={0.85} within={fan.object} />
          <Lines points={lines.fans} color={depth} within={fan.object} />
        </>
      )}
      {view === "difference" && (
        <>
          <Lines points={lines.changed} color={mark} within={chosen} />
          <Lines points={lines.fans} color={depth} opacity={0.8} within={chosen} />
          <Patch positions={positions} triangles={cuts.differing} color={mark} opacity={0.3} within={chosen} />
        </>
      )}
      {view !== "fan" && (
        <Patch
          positions={positions}
          triangles={cuts.breaking}
          color={night ? "#ff8a80" : "#b3261e"}
          opacity={view === "difference" ? 0.5 : 0.25}
          within={chosen}
        />
      )}
      {aimLines && (
        <>
          <Lines points={aimLines.now} color={ink} width={3} through within={chosen} />
          <Lines points={aimLines.turned} color={mark} width={4} through within={chosen} />
        </>
      )}
      <SurfacePicker surface={level} onHover={cuts.onHover} onPick={cuts.onPick} />
    </>
  );
}
