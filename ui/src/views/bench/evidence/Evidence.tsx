import type { Finding, PropDetail } from "../../../api/client";
import type { EyeStore } from "../../../viewport/viewState";
import type { Marking } from "../marking/useMarking";
import type { StationName } from "../summaries";
import type { Decide } from "../useDecisions";
import { CutsEvidence } from "./Cuts";
import { EdgeAngles } from "./EdgeAngles";
import { Faults } from "./Faults";
import { Names } from "./Names";
import { SightChart } from "./SightChart";
import { Sizes } from "./Sizes";
import { SourceParts } from "./SourceParts";

interface EvidenceProps {
  station: StationName;
  prop: PropDetail;
  angle: number;
  eye: EyeStore;
  onAngle: (angle: number) => void;
  onAngleCommit: (angle: number) => void;
  selected: string | null;
  onSelect: (path: string | null) => void;
  finding: Finding | null;
  onShow: (finding: Finding | null) => void;
  decide: Decide;
  marking: Marking;
}

/** A picture of the data in which the open station's decision is made. */
export function Evidence({ station, prop, angle, eye, onAngle, onAngleCommit, selected, onSelect, finding, onShow, decide, marking }: EvidenceProps) {
  switch (station) {
    case "source":
      return <SourceParts prop={prop} selected={selected} onSelect={onSelect} decide={decide} />;
    case "placement":
      return <Sizes prop={prop} decide={decide} />;
    case "cleanup":
      return <Faults prop={prop} shown={finding} onShow={onShow} />;
    case "triangulation":
      return <CutsEvidence prop={prop} />;
    case "normals":
      return <EdgeAngles prop={prop} angle={angle} onAngle={onAngle} onCommit={onAngleCommit} liveCost={marking.cost} hardCost={marking.hardCost} liveHard={marking.isReady ? marking.hardCount : null} />;
    case "levels":
      return <SightChart prop={prop} eye={eye} decide={decide} />;
    case "naming":
      return <Names prop={prop} />;
  }
}
