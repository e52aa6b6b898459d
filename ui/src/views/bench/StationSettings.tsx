import { useEffect, useId, useState } from "react";

import type { PropDetail } from "../../api/client";
import { Button } from "../../parts/Button";
import { count, millimetres } from "../../parts/format";
import { SelectBox } from "../../parts/SelectBox";
import { NumberField, TextField } from "../../parts/TextField";
import { Ticked } from "../../parts/Ticked";
import { CleanupSettings } from "./settings/CleanupSettings";
import type { Marking } from "./marking/useMarking";
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

const CHIP = ["--lod-0", "--lod-1", "--lod-2", "--lod-3", "--lod-4", "--lod-5", "--lod-6", "--lod-7"];

/** The tint of a level: deeper water for a further one. */
export function LevelSwatch({ index }: { index: number }) {
  return <span aria-hidden className="inline-block size-2.5 border border-rule-control" style={{ background: `var(${CHIP[index] ?? "--lod-7"})` }} />;
}

const NORMALS = [
  { value: "closest", label: "Whichever looks closest" },
  { value: "kept", label: "Those of its vertices" },
  { value: "rule", label: "Made anew by the rule" },
  { value: "carried", label: "Carried over from LOD0" },
];

function LevelsSettings({ prop, left, onLevel, decide }: StationSettingsProps) {
  const ratios = prop.settings.levels?.ratios as number[];
  const [drafts, setDrafts] = useState(() => ratios.map(asPercent));
  useEffect(() => setDrafts(ratios.map(asPercent)), [ratios]);
  const commit = (texts: string[]) => {
    const next = texts.map((text) => Number(text.replace(",", ".")) / 100);
    if (next.some((value) => !Number.isFinite(value))) return setDrafts(ratios.map(asPercent));
    if (JSON.stringify(next) !== JSON.stringify(ratios)) decide("levels", { ratios: next });
  };
  const add = () => {
    const last = ratios.at(-1) ?? 1;
    decide("levels", { ratios: [...ratios, Math.max(Math.round(last * 0.5 * 1000) / 1000, 0.001)] });
  };
  return (
    <div>
      <table className="w-full">
        <thead className="text-right text-sm text-quiet">
          <tr>
            <th className="pb-1 text-left font-normal">level</th>
            <th className="font-normal">triangles</th>
            <th className="pl-1.5 font-normal whitespace-nowrap">off, mm</th>
            <th className="pl-1.5 font-normal" title="mean angle between this level's shading and LOD0's">
              shade
            </th>
          </tr>
        </thead>
        <tbody className="figure text-right">
          {prop.levels.map((level) => (
            <tr key={level.index} className={level.index === left ? "bg-mark-tint" : ""}>
              <td className="text-left">
                <button type="button" className="flex items-center gap-1.5 font-sans font-medium" onClick={() => onLevel(level.index)}>
                  <LevelSwatch index={level.index} />
                  LOD{level.index}
                </button>
              </td>
              <td>{count(level.triangles)}</td>
              <td className="pl-1.5">{millimetres(level.deviation)}</td>
              <td className="pl-1.5" title={level.normals ? `normals: ${NORMALS.find(({ value }) => value === level.normals)?.label ?? level.normals}` : undefined}>{level.normal_angle.toFixed(1)}°</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="mt-3 space-y-1 border-t border-rule pt-2">
        <div className="text-sm text-quiet">Normals of the levels</div>
        <SelectBox label="Normals of the levels" className="w-full" value={prop.settings.levels?.normals as string} options={NORMALS} onChange={(normals) => decide("levels", { normals })} />
      </div>
      <div className="mt-3 border-t border-rule pt-2">
        {ratios.map((ratio, i) => (
          <div key={`${i}-${ratio}`} className="mb-1 flex items-center gap-2">
            <label className="flex grow items-center justify-between text-quiet">
              LOD{i + 1}
              <span className="flex items-center gap-1">
                <input
                  aria-label={`Triangles of LOD${i + 1} in percent of LOD0`}
                  inputMode="decimal"
                  value={drafts[i] ?? ""}
                  onChange={(event) => setDrafts(drafts.map((old, k) => (k === i ? event.target.value : old)))}
                  onBlur={() => commit(drafts)}
                  onKeyDown={(event) => event.key === "Enter" && commit(drafts)}
                  className="figure h-7 w-16 rounded border border-rule-control bg-sheet px-2 text-right text-ink"
                />
                %
              </span>
            </label>
            <button
              type="button"
              aria-label={`Remove LOD${i + 1}`}
              className="size-6 text-quiet hover:text-ink"
              onClick={() => decide("levels", { ratios: ratios.filter((_, k) => k !== i) })}
            >
              ✕
            </button>
          </div>
        ))}
        {ratios.length < 7 && (
          <Button kind="quiet" className="!px-0" onClick={add}>
            + Add a level
          </Button>
        )}
      </div>
    </div>
  );
}

function asPercent(ratio: number): string {
  return String(Math.round(ratio * 1000) / 10);
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
