import { useBeforeAndAfter } from "../../viewport/source";
import { Sides } from "../../viewport/Sides";
import { NOTHING_SHOWN, places, useBench, useShown } from "../bench";
import { CleanupSettings } from "./CleanupSettings";
import { Faults } from "./Faults";

const NONE: number[] = [];

/** The prop before its cleanup and after it. */
export function OpenCleanup() {
  const { prop, decide, model, split, finding, showFinding } = useBench();
  const source = { url: prop.source_model ?? null, matrix: prop.facts.placement?.matrix };
  const both = useBeforeAndAfter(source, prop.facts.source?.own ?? NONE, model);
  useShown(
    both
      ? {
          ...NOTHING_SHOWN,
          kind: "cleanup",
          model: both,
          left: split === null ? 1 : 0,
          right: 1,
          split,
          canSplit: true,
          splitHint: "before and after the cleanup (X)",
        }
      : { ...NOTHING_SHOWN, model, levels: prop.levels },
  );
  return (
    <>
      <places.settings.In>
        <CleanupSettings prop={prop} decide={decide} />
      </places.settings.In>
      <places.evidence.In>
        <Faults prop={prop} shown={finding} onShow={showFinding} />
      </places.evidence.In>
      {both && split !== null && (
        <places.overlay.In>
          <Sides left="source" right="cleaned" />
        </places.overlay.In>
      )}
    </>
  );
}
