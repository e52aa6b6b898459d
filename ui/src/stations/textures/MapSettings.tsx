import { Button } from "../../parts/Button";
import { CheckRow } from "../../parts/CheckRow";
import { RangeSlider } from "../../parts/RangeSlider";
import { SelectBox } from "../../parts/SelectBox";
import { NumberField } from "../../parts/TextField";
import type { Decide, Settings } from "../bench";
import { Labelled } from "../settingFields";
import { useEffect, useState } from "react";
import { BANDS, type Height, HEIGHT, type MapChoice, withChoice } from "./mapChoices";
import { BY, type Codec, CODECS, type Kind, KINDS, type TextureRow } from "./words";

type Textures = Settings["textures"];

const AUTO = "auto";

interface MapSettingsProps {
  row: TextureRow;
  settings: Textures;
  decide: Decide;
  /** Told of the heights while they are being set, and of null once they are decided. */
  onDraft: (height: Height | null) => void;
}

/** What is decided about the texture in hand. */
export function MapSettings({ row, settings, decide, onDraft }: MapSettingsProps) {
  const choice = settings.maps.find(({ image }) => image === row.image);
  const decided = (change: Partial<MapChoice>) =>
    decide("textures", { maps: withChoice(settings.maps, row.image, change) });
  const kinds = Object.entries(KINDS) as [Kind, string][];
  const codecs = Object.entries(CODECS) as [Codec, string][];
  const isNormal = row.kind === "normal" || choice?.height != null;
  return (
    <section aria-label={`Settings of ${row.image}`} className="space-y-2 border-t border-rule pt-2">
      <h3 className="truncate font-semibold" title={row.image}>
        {row.image}
      </h3>
      <p className="text-sm text-quiet">
        {KINDS[row.kind]}, {BY[row.by]}; {row.channels} × {row.bits} bits a pixel
      </p>
      <Labelled words="Kind" beside>
        <SelectBox
          label="Kind of the texture"
          className="w-40"
          value={choice?.kind ?? AUTO}
          options={[{ value: AUTO, label: "As found" }, ...kinds.map(([value, label]) => ({ value, label }))]}
          onChange={(kind) => decided({ kind: kind === AUTO ? null : (kind as Kind) })}
        />
      </Labelled>
      <Labelled words="Codec" beside>
        <SelectBox
          label="Codec of the texture"
          className="w-40"
          value={choice?.codec ?? AUTO}
          options={[{ value: AUTO, label: "What it needs" }, ...codecs.map(([value, label]) => ({ value, label }))]}
          onChange={(codec) => decided({ codec: codec === AUTO ? null : (codec as Codec) })}
        />
      </Labelled>
      {isNormal && (
        <CheckRow
          label="Turn green over"
          checked={choice?.flip_green ?? false}
          onChange={(flips) => decided({ flip_green: flips })}
        />
      )}
      {isNormal && (
        <CheckRow
          label="Make normals unit length"
          checked={choice?.unit ?? false}
          onChange={(unit) => decided({ unit })}
        />
      )}
      {row.channels >= 3 && !isNormal && (
        <CheckRow
          label="Keep one channel"
          checked={choice?.one_channel ?? false}
          onChange={(one) => decided({ one_channel: one })}
        />
      )}
      {row.alpha !== "none" && (
        <CheckRow
          label="Leave alpha out"
          checked={choice?.drop_alpha ?? false}
          onChange={(drops) => decided({ drop_alpha: drops })}
        />
      )}
      <CheckRow
        label="A height map: make normals of it"
        checked={choice?.height != null}
        onChange={(isHeight) => decided(isHeight ? { height: HEIGHT, kind: "normal" } : { height: null, kind: null })}
      />
      {choice?.height && (
        <Heights height={choice.height} onDraft={onDraft} onCommit={(height) => decided({ height })} />
      )}
      {choice && (
        <Button onClick={() => decide("textures", { maps: settings.maps.filter((c) => c !== choice) })}>
          As found
        </Button>
      )}
    </section>
  );
}

/** One strength, and how much of each size of detail stays. */
function Heights({
  height,
  onDraft,
  onCommit,
}: {
  height: Height;
  onDraft: (height: Height | null) => void;
  onCommit: (height: Height) => void;
}) {
  const [shares, setShares] = useState(height.shares);
  useEffect(() => setShares(height.shares), [height.shares]);
  const moved = (at: number, share: number) => shares.map((old, k) => (k === at ? share : old));
  const draft = (at: number, share: number) => {
    setShares(moved(at, share));
    onDraft({ ...height, shares: moved(at, share) });
  };
  return (
    <div className="space-y-1">
      <NumberField
        inline
        label="Strength"
        unit="px"
        value={height.strength}
        limits={{ above: 0, high: 256 }}
        onCommit={(strength) => onCommit({ ...height, strength })}
      />
      <CheckRow
        label="Occlusion from it, where there is none"
        checked={height.occlusion}
        onChange={(occlusion) => onCommit({ ...height, occlusion })}
      />
      <p className="text-sm text-quiet">Share of each size of detail</p>
      {BANDS.map((band, k) => (
        <div key={band} className="grid grid-cols-[3.5rem_1fr_3rem] items-center gap-2">
          <span className="figure text-sm text-quiet">{band}</span>
          <RangeSlider
            label={`share of detail of ${band}`}
            value={shares[k] ?? 1}
            min={0}
            max={2}
            step={0.05}
            onChange={(share) => draft(k, share)}
            onCommit={(share) => onCommit({ ...height, shares: moved(k, share) })}
          />
          <span className="figure text-right text-sm">{Math.round(100 * (shares[k] ?? 1))} %</span>
        </div>
      ))}
    </div>
  );
}
