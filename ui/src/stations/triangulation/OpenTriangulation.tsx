import { useMemo } from "react";

import { Segmented } from "../../parts/Segmented";
import { Sides } from "../../viewport/Sides";
import { SurfaceFailed } from "../SurfaceFailed";
import { useSurface } from "../useSurface";
import { NOTHING_SHOWN, places, useBench, useShown } from "../bench";
import { CutsDrawn } from "./CutsDrawn";
import { CutsEvidence } from "./CutsEvidence";
import { TriangulationSettings } from "./TriangulationSettings";
import { type CutView, useCuts } from "./useCuts";

const CUT_VIEWS: { value: CutView; label: string; hint: string }[] = [
  { value: "chosen", label: "As it ships", hint: "the triangulation chosen here" },
  { value: "fan", label: "Engine's fan", hint: "a triangle fan from each polygon's first corner" },
  {
    value: "difference",
    label: "Difference",
    hint: "polygons that are triangulated differently; an engine would break the red ones",
  },
];

/** The polygons with their diagonals, beside those of an engine's triangle fans. */
export function OpenTriangulation() {
  const { prop, decide, model, split } = useBench();
  const loaded = useSurface();
  const { surface } = loaded;
  const cuts = useCuts({ prop, level: surface, radius: model?.sphere.radius ?? 1, decide });
  const level = surface?.level ?? null;
  const { fan, view } = cuts;
  const both = useMemo(
    () => (model && level ? { ...model, levels: [fan ?? level, level] } : null),
    [model, level, fan],
  );
  const shownSplit = fan ? split : null;
  useShown(
    both
      ? {
          ...NOTHING_SHOWN,
          kind: "cuts",
          model: both,
          left: split !== null || view === "fan" ? 0 : 1,
          right: 1,
          split: shownSplit,
          canSplit: fan !== null,
          splitHint: "the engine's fan and the triangulation that ships, side by side (X)",
        }
      : { ...NOTHING_SHOWN, model, levels: prop.levels },
  );
  return (
    <>
      <SurfaceFailed of={loaded} />
      <places.settings.In>
        <TriangulationSettings prop={prop} decide={decide} />
      </places.settings.In>
      <places.evidence.In>
        <CutsEvidence prop={prop} />
      </places.evidence.In>
      {both && surface && (
        <places.drawn.In>
          <CutsDrawn cuts={cuts} level={surface} />
        </places.drawn.In>
      )}
      {both && (
        <places.overlay.In>
          {shownSplit === null ? (
            <div className="absolute top-3 left-3">
              <Segmented
                label="The triangulation that is shown"
                value={view}
                options={CUT_VIEWS}
                onChange={cuts.setView}
              />
            </div>
          ) : (
            <Sides left="engine's fan" right="as it ships" />
          )}
        </places.overlay.In>
      )}
    </>
  );
}
