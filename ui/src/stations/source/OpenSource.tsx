import { useCallback, useMemo, useState } from "react";

import { useShortcuts } from "../../app/shortcuts";
import { Button } from "../../parts/Button";
import type { Hit } from "../../viewport/Picker";
import { useSourceModel } from "../../viewport/source";
import { NOTHING_SHOWN, places, useBench, useShown } from "../bench";
import { SourceParts } from "./SourceParts";
import { SourceSettings } from "./SourceSettings";
import { shipByHand } from "./useSource";

/** The whole source in the view: what ships of it, and what stays behind as a ghost. */
export function OpenSource() {
  const { prop, decide, model } = useBench();
  const [selected, setSelected] = useState<string | null>(null);
  const { parts } = prop;
  const own = prop.facts.source?.own;
  const shown = useMemo(() => {
    const ships = parts.map((part) => part.ships);
    return own && own.length > 0 && own.length < ships.length ? ships.map((on, i) => on && own.includes(i)) : ships;
  }, [own, parts]);
  const number = selected === null ? -1 : parts.findIndex((part) => part.path === selected);
  const source = useSourceModel(
    { url: prop.source_model ?? null, matrix: prop.facts.placement?.matrix },
    shown,
    number < 0 ? null : number,
  );
  const inHand = parts[number];
  const toggle = () => inHand && decide("source", shipByHand(prop, inHand.path, !inHand.ships));
  const onPick = useCallback(
    (hit: Hit) => {
      const picked = /^part_(\d+)/.exec(hit.node)?.[1];
      const path = picked === undefined ? undefined : parts[Number(picked)]?.path;
      setSelected((old) => (path === undefined || path === old ? null : path));
    },
    [parts],
  );
  useShortcuts({ l: () => toggle(), escape: () => (selected ? setSelected(null) : false) }, { first: true });
  useShown(
    source
      ? { ...NOTHING_SHOWN, kind: "source", model: source, onPick }
      : { ...NOTHING_SHOWN, model, levels: prop.levels },
  );
  return (
    <>
      <places.settings.In>
        <SourceSettings prop={prop} decide={decide} />
      </places.settings.In>
      <places.evidence.In>
        <SourceParts prop={prop} selected={selected} onSelect={setSelected} decide={decide} />
      </places.evidence.In>
      {source && inHand && (
        <places.overlay.In>
          <div
            className="absolute top-3 left-1/2 flex max-w-[60%] -translate-x-1/2 items-center gap-3 rounded border border-rule-strong bg-sheet/95 px-2.5 py-1"
            role="status"
          >
            <span className="figure truncate">{inHand.path}</span>
            <Button className="!h-6" title="(L)" onClick={toggle}>
              {inHand.ships ? "Exclude" : "Include"}
            </Button>
          </div>
        </places.overlay.In>
      )}
    </>
  );
}
