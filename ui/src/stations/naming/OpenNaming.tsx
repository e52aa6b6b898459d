import { places, useBench, useLevelsShown } from "../bench";
import { Names } from "./Names";
import { NamingSettings } from "./NamingSettings";

/** The names under which the prop ships. */
export function OpenNaming() {
  const { prop, decide, rename } = useBench();
  useLevelsShown();
  return (
    <>
      <places.settings.In>
        <NamingSettings prop={prop} decide={decide} rename={rename} />
      </places.settings.In>
      <places.evidence.In>
        <Names prop={prop} />
      </places.evidence.In>
    </>
  );
}
