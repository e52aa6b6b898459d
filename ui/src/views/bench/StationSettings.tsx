import { useEffect, useId, useState } from "react";

import type { PropDetail } from "../../api/client";
import { SelectBox } from "../../parts/SelectBox";
import { NumberField, TextField } from "../../parts/TextField";
import { Ticked } from "../../parts/Ticked";
import type { PreviewLimit } from "./descent/useDescent";
import { CleanupSettings } from "./settings/CleanupSettings";
import type { Marking } from "./marking/useMarking";
import { LevelsSettings } from "./settings/LevelsSettings";
import { NormalsSettings } from "./settings/NormalsSettings";
import { type PickKind, PlacementSettings } from "./settings/PlacementSettings";
import { SourceSettings } from "./settings/SourceSettings";
import { TriangulationSettings } from "./settings/TriangulationSettings";
import type { StationName } from "./summaries";
import type { Decide } from "./useDecisions";

interface StationSettingsProps {
  station: StationName;
  prop: PropDetail;
  left: number;
  angle: number;
  onAngle: (angle: number) => void;
  onLevel: (index: number) => void;
  decide: Decide;
  rename: (name: string) => void;
  pick: PickKind | null;
  onPick: (kind: PickKind | null) => void;
  spin: boolean;
  onSpin: (spin: boolean) => void;
  marking: Marking;
  onPreview: (limit: PreviewLimit, value: number) => void;
}

/** The few settings of the open stop. */
export function StationSettings(props: StationSettingsProps) {
  switch (props.station) {
    case "source":
      return <SourceSettings {...props} />;
    case "placement":
      return <PlacementSettings {...props} />;
    case "cleanup":
      return <CleanupSettings {...props} />;
    case "triangulation":
      return <TriangulationSettings {...props} />;
    case "normals":
      return <NormalsSettings {...props} />;
    case "levels":
      return <LevelsSettings {...props} />;
    case "naming":
      return <NamingSettings {...props} />;
  }
}

const CASES = [
  { value: "keep", label: "as they are" },
  { value: "lower", label: "small letters" },
  { value: "upper", label: "CAPITALS" },
  { value: "title", label: "Words_Like_This" },
];

function NamingSettings({ prop, decide, rename }: StationSettingsProps) {
  const [name, setName] = useState(prop.name);
  const naming = prop.settings.naming as unknown as { prefix: string; suffix: string; case: string; longest: number; hyphens: boolean };
  const id = useId();
  useEffect(() => setName(prop.name), [prop.name]);
  return (
    <div className="space-y-2">
      <label htmlFor={`${id}-name`} className="block text-sm text-quiet">
        Name
      </label>
      <input
        id={`${id}-name`}
        value={name}
        onChange={(event) => setName(event.target.value)}
        onBlur={() => name !== prop.name && rename(name)}
        onKeyDown={(event) => event.key === "Enter" && name !== prop.name && rename(name)}
        className="figure h-7 w-full rounded border border-rule-control bg-sheet px-2"
      />
      <div className="grid grid-cols-2 gap-2">
        <TextField label="House prefix" value={naming.prefix} placeholder="none" onCommit={(prefix) => decide("naming", { prefix })} />
        <TextField label="House suffix" value={naming.suffix} placeholder="none" onCommit={(suffix) => decide("naming", { suffix })} />
      </div>
      <div className="space-y-1">
        <div className="text-sm text-quiet">Letters</div>
        <SelectBox label="Letters of names" className="w-full" value={naming.case} options={CASES} onChange={(value) => decide("naming", { case: value })} />
      </div>
      <NumberField label="Longest name" unit="letters" inline value={naming.longest} onCommit={(longest) => decide("naming", { longest: Math.round(longest) })} />
      <Ticked label="Hyphens are allowed" checked={naming.hyphens} onChange={(hyphens) => decide("naming", { hyphens })} />
    </div>
  );
}
