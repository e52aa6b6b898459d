import { useCallback, useState } from "react";

import { useShortcuts } from "../../app/shortcuts";
import { type Hit, snapped } from "../../viewport/Picker";
import { toSource } from "../../viewport/toSource";
import { places, useBench, useLevelsShown } from "../bench";
import { type PickKind, PlacementSettings } from "./PlacementSettings";
import { Sizes } from "./Sizes";

/** The prop with its pivot, which may be picked on the model. */
export function OpenPlacement() {
  const { prop, decide } = useBench();
  const [pick, setPick] = useState<PickKind | null>(null);
  const [spin, setSpin] = useState(false);
  const matrix = prop.facts.placement?.matrix;
  const onPick = useCallback(
    (hit: Hit) => {
      const point = pick && toSource(snapped(hit, pick), matrix);
      if (pick && point) decide("placement", { pivot: "point", snap_to: pick, point });
      setPick(null);
    },
    [pick, matrix, decide],
  );
  useShortcuts({ s: () => setSpin((old) => !old), escape: () => (pick ? setPick(null) : false) }, { first: true });
  useLevelsShown({ drawsPivot: true, spins: spin, onPick: pick ? onPick : null });
  return (
    <>
      <places.settings.In>
        <PlacementSettings prop={prop} decide={decide} pick={pick} onPick={setPick} spin={spin} onSpin={setSpin} />
      </places.settings.In>
      <places.evidence.In>
        <Sizes prop={prop} decide={decide} />
      </places.evidence.In>
    </>
  );
}
