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

/** The heading of a piece of evidence: a question, and how to read the answer. */
export function Heading({ question, reading }: { question: string; reading: string }) {
  return (
    <div className="px-4 pt-2">
      <h2 className="font-semibold">{question}</h2>
      <p className="text-sm text-quiet">{reading}</p>
    </div>
  );
}
