import { useMemo } from "react";

import { useTheme } from "../../app/theme";
import { Lines } from "../../viewport/Lines";
import type { LoadedModel } from "../../viewport/model";
import { type NormalLines, normalLines } from "../../viewport/normalLines";
import { Patch } from "../../viewport/Patch";
import type { SurfaceLevel } from "../../viewport/surfaceLevel";
import { SurfacePicker } from "../../viewport/SurfacePicker";
import type { Marking } from "./useMarking";

interface MarkingDrawnProps {
  marking: Marking;
  level: SurfaceLevel;
  showsHard: boolean;
}

/** Hard edges of LOD0, what the tool in hand would take, and the pointer on the surface. */
export function MarkingDrawn({ marking, level, showsHard }: MarkingDrawnProps) {
  const night = useTheme() === "night";
  const ink = night ? "#e9e4d2" : "#14233c";
  const object = level.level.object;
  return (
    <>
      {showsHard && marking.cliffs && (
        <>
          <Lines points={marking.cliffs.lines} color={ink} width={1.6} within={object} />
          <Lines points={marking.cliffs.ticks} color={ink} width={1.3} within={object} />
          <Lines points={marking.cliffs.strong} color={ink} width={2.4} within={object} />
        </>
      )}
      {marking.aim?.triangles && (
        <Patch
          positions={level.surface.positions}
          triangles={marking.aim.triangles}
          color={night ? "#f06bb5" : "#a81e6e"}
          within={object}
        />
      )}
      <Lines points={marking.aimLines} color={night ? "#f06bb5" : "#a81e6e"} width={4} through within={object} />
      {marking.tool && <SurfacePicker surface={level} onHover={marking.onHover} onPick={marking.onPick} />}
    </>
  );
}

/** Normals as short lines on a level; `stamp` changes when the normals do. */
export function NormalsDrawn({
  model,
  level,
  kind,
  stamp,
}: {
  model: LoadedModel;
  level: number;
  kind: NormalLines;
  stamp: number;
}) {
  const night = useTheme() === "night";
  const shown = model.levels[level];
  const points = useMemo(
    () => (shown ? normalLines(shown, kind, model.sphere.radius * 0.045) : new Float32Array()),
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the arrays change in place; the stamp tells
    [shown, kind, stamp, model.sphere.radius],
  );
  return <Lines points={points} color={night ? "#9fd4ff" : "#2a5d8f"} opacity={0.8} within={shown?.object ?? null} />;
}
