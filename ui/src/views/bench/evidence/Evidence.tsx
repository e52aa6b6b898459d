import type { PropDetail } from "../../../api/client";
import type { EyeStore } from "../../../viewport/viewState";
import type { StationName } from "../summaries";
import { EdgeAngles } from "./EdgeAngles";
import { Names } from "./Names";
import { Sides } from "./Sides";
import { SightChart } from "./SightChart";

interface EvidenceProps {
  station: StationName;
  prop: PropDetail;
  angle: number;
  eye: EyeStore;
  onAngle: (angle: number) => void;
  onAngleCommit: (angle: number) => void;
}

/** A picture of the data in which the open station's decision is made. */
export function Evidence({ station, prop, angle, eye, onAngle, onAngleCommit }: EvidenceProps) {
  switch (station) {
    case "triangulation":
      return <Sides prop={prop} />;
    case "normals":
      return <EdgeAngles prop={prop} angle={angle} onAngle={onAngle} onCommit={onAngleCommit} />;
    case "levels":
      return <SightChart prop={prop} eye={eye} />;
    case "naming":
      return <Names prop={prop} />;
  }
}
