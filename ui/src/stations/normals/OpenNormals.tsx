import { useEffect, useState } from "react";

import { useShortcuts } from "../../app/shortcuts";
import { Button } from "../../parts/Button";
import { Segmented } from "../../parts/Segmented";
import type { NormalLines } from "../../viewport/normalLines";
import { SurfaceFailed } from "../SurfaceFailed";
import { useSurface } from "../useSurface";
import { places, useBench, useLevelsShown } from "../bench";
import { EdgeAngles } from "./EdgeAngles";
import { AimRead, MarkBar } from "./MarkBar";
import { MarkingDrawn, NormalsDrawn } from "./MarkingDrawn";
import { NormalsSettings } from "./NormalsSettings";
import type { Tool } from "./aims";
import { useMarking } from "./useMarking";

const NORMAL_LINES: { value: NormalLines; label: string }[] = [
  { value: "off", label: "No lines" },
  { value: "corner", label: "Corners" },
  { value: "face", label: "Faces" },
];

/** LOD0 with live normals: the threshold moves, edges and patches are marked on the model. */
export function OpenNormals() {
  const { prop, decide, model, left, last } = useBench();
  const decided = prop.settings.normals.angle;
  const [angle, setAngle] = useState(decided);
  useEffect(() => setAngle(decided), [decided]);
  const [lines, setLines] = useState<NormalLines>("off");
  const [showsHard, setShowsHard] = useState(true);
  const loaded = useSurface();
  const { surface, apart } = loaded;
  const marking = useMarking({ prop, level: surface, radius: model?.sphere.radius ?? 1, angle, decide });
  const shown = Math.min(left, last);
  const marks = surface !== null && shown === 0;
  const take = (tool: Tool) => marking.setTool(marking.tool === tool ? null : tool);
  useShortcuts(
    {
      e: () => take("edge"),
      o: () => take("loop"),
      b: () => take("border"),
      a: () => take("patch"),
      u: () => take("flip"),
      h: () => marking.setAct("hard"),
      j: () => marking.setAct("soft"),
      k: () => marking.setAct("clear"),
      escape: () => (marking.tool ? marking.setTool(null) : false),
    },
    { first: true },
  );
  useLevelsShown({ model: apart, hasRightChip: !marking.tool });
  return (
    <>
      <SurfaceFailed of={loaded} />
      <places.settings.In>
        <NormalsSettings prop={prop} angle={angle} onAngle={setAngle} decide={decide} marking={marking} />
      </places.settings.In>
      <places.evidence.In>
        <EdgeAngles
          prop={prop}
          angle={angle}
          onAngle={setAngle}
          onCommit={(value) => decide("normals", { angle: value, source: "angle" })}
          liveCost={marking.cost}
          hardCost={marking.hardCost}
          liveHard={marking.isReady ? marking.hardCount : null}
        />
      </places.evidence.In>
      {model && (
        <places.drawn.In>
          {marks && <MarkingDrawn marking={marking} level={surface} showsHard={showsHard} />}
          <NormalsDrawn model={apart ?? model} level={shown} kind={lines} stamp={marking.revision} />
        </places.drawn.In>
      )}
      {marks && (
        <>
          <places.above.In>
            <MarkBar marking={marking} />
          </places.above.In>
          <places.overlay.In>
            <AimRead marking={marking} />
          </places.overlay.In>
        </>
      )}
      {surface && (
        <places.tools.In>
          <Button pressed={showsHard} onClick={() => setShowsHard(!showsHard)} title="edges where the shading breaks">
            Hard edges
          </Button>
          <Segmented label="Normals as lines" value={lines} options={NORMAL_LINES} onChange={setLines} />
        </places.tools.In>
      )}
    </>
  );
}
