import { useState } from "react";
import type { Texture } from "three";

import type { PropDetail } from "../../api/client";
import { Button } from "../../parts/Button";
import { count, plural } from "../../parts/format";
import { Segmented } from "../../parts/Segmented";
import { SelectBox } from "../../parts/SelectBox";
import { css, SCALES, SHEET_VIEWS, type SheetView } from "../../surface/uvColours";
import type { UvIslands } from "../../surface/uvs";
import { IslandBar } from "./IslandBar";
import type { UvMarks } from "./useUvMarks";
import { UvSheet } from "./UvSheet";

/** What lies under the islands: plain paper, the numbered grid, or the texture of a material, whatever its name. */
export type Under = "paper" | "grid" | `of ${string}`;

interface SheetPanelProps {
  prop: PropDetail;
  /** The channel in sight, and its islands; null where there are none yet. */
  number: number;
  channel: UvIslands | null;
  /** Said where there are no islands. */
  empty: string;
  textures: { name: string; map: Texture }[];
  grid: Texture;
  view: SheetView;
  under: Under;
  hovered: number | null;
  picked: number | null;
  marks: UvMarks;
  onChannel: (number: number) => void;
  onView: (view: SheetView) => void;
  onUnder: (under: Under) => void;
  onHover: (island: number | null) => void;
  onPick: (island: number | null) => void;
}

/** The sheet of a channel beside the model, with what chooses how it is drawn and what is in hand. */
export function SheetPanel({
  prop,
  number,
  channel,
  empty,
  textures,
  grid,
  view,
  under,
  hovered,
  picked,
  marks,
  onChannel,
  onView,
  onUnder,
  onHover,
  onPick,
}: SheetPanelProps) {
  const [stamp, setStamp] = useState(0);
  const [drawsPadding, setDrawsPadding] = useState(false);
  const texture = textures.find(({ name }) => under === `of ${name}`);
  const island = hovered ?? picked;
  const { method } = prop.settings.uvs;
  return (
    <section aria-label="UV sheet" className="relative h-full w-[46%] shrink-0 border-l border-rule-strong bg-paper">
      {channel ? (
        <UvSheet
          channel={channel}
          view={view}
          under={under === "grid" ? grid : (texture?.map ?? null)}
          island={island}
          padding={drawsPadding ? paddingOf(prop, number) : null}
          onHover={onHover}
          onPick={onPick}
          stamp={stamp}
        />
      ) : (
        <p className="grid h-full place-items-center text-quiet">{empty}</p>
      )}
      <div className="absolute top-3 right-3 left-3 flex flex-wrap items-center gap-2">
        <ChannelChoice prop={prop} number={number} onChange={onChannel} />
        <SelectBox
          label="Under the islands"
          className="w-40"
          value={texture || under === "grid" ? under : "paper"}
          options={[
            { value: "paper" as const, label: "Plain" },
            { value: "grid" as const, label: "Numbered grid" },
            ...textures.map(({ name }) => ({ value: `of ${name}` as const, label: name || "unnamed material" })),
          ]}
          onChange={onUnder}
        />
        <Button
          pressed={drawsPadding}
          onClick={() => setDrawsPadding(!drawsPadding)}
          title="half the padding around each island, as wide as its pixels are"
        >
          Padding
        </Button>
        <Button onClick={() => setStamp(stamp + 1)} title="the whole square">
          Frame
        </Button>
      </div>
      <div className="absolute right-3 bottom-3 left-3 flex flex-wrap items-end justify-between gap-2">
        <Segmented label="Sheet coloured by" value={view} options={SHEET_VIEWS} onChange={onView} />
        {picked !== null && channel && number === 0 ? (
          <IslandBar
            island={picked}
            of={channel.count}
            marks={marks}
            canLock={method === "source" || method === "repack"}
          />
        ) : (
          <Reading view={view} island={island} count={channel?.count ?? 0} />
        )}
      </div>
    </section>
  );
}

/** Half of this stands around each island, in UVs. */
function paddingOf({ facts, settings }: PropDetail, number: number): number {
  const isLight = number === 1 && Boolean(facts.uvs?.light_map);
  const pixels = isLight ? settings.uvs.light_map_padding : settings.uvs.padding;
  return pixels / (facts.uvs?.channels[number]?.pixels ?? 1024);
}

/** Which channel is in sight, where there are several. */
function ChannelChoice({
  prop,
  number,
  onChange,
}: {
  prop: PropDetail;
  number: number;
  onChange: (number: number) => void;
}) {
  const { channels = [], light_map } = prop.facts.uvs ?? {};
  if (channels.length < 2) return null;
  return (
    <Segmented
      label="UV channel"
      value={`${number}`}
      options={channels.map((_, k) => ({ value: `${k}`, label: k === 1 && light_map ? "1 light map" : `${k}` }))}
      onChange={(value) => onChange(Number(value))}
    />
  );
}

function Reading({ view, island, count: islands }: { view: SheetView; island: number | null; count: number }) {
  const scale = SCALES[view];
  return (
    <div className="rounded border border-rule bg-sheet/90 px-2 py-1 text-sm">
      {scale ? (
        <ul className="flex flex-wrap gap-x-3">
          {scale.stops.map(({ color, label }) => (
            <li key={label} className="flex items-center gap-1 whitespace-nowrap">
              <span className="inline-block size-3 border border-rule" style={{ background: css(color) }} />
              {label}
            </li>
          ))}
        </ul>
      ) : (
        <span className="figure">
          {island === null ? plural(islands, "island") : `island ${count(island + 1)} of ${count(islands)}`}
        </span>
      )}
    </div>
  );
}
