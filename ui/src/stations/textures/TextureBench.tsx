import { useEffect, useMemo, useRef, useState } from "react";

import { Button } from "../../parts/Button";
import { count } from "../../parts/format";
import { Segmented } from "../../parts/Segmented";
import { SelectBox } from "../../parts/SelectBox";
import type { LoadedModel } from "../../viewport/model";
import { useGpuTexture } from "../../viewport/useGpuTexture";
import type { Height } from "./mapChoices";
import { sourceTexture } from "./sourceTextures";
import { SplitBar } from "./SplitBar";
import { shownLook, type TextureLook } from "./textureLook";
import type { Shows } from "./textureShader";
import { TextureView } from "./TextureView";
import { useHeightDraft } from "./useHeightDraft";
import { CODECS, quality, type TextureRow } from "./words";

const CHANNELS: { value: Shows; label: string; hint: string }[] = [
  { value: "color", label: "All", hint: "all channels, alpha over a checkerboard" },
  { value: "r", label: "R", hint: "red alone" },
  { value: "g", label: "G", hint: "green alone" },
  { value: "b", label: "B", hint: "blue alone" },
  { value: "a", label: "A", hint: "alpha alone" },
];
const LIT = { value: "lit" as const, label: "Lit", hint: "the normals under a lamp from the upper left" };
/** Steps of 8 bits at the end of the error's scale. */
const ERRORS = [8, 32];

interface TextureBenchProps {
  prop: number;
  row: TextureRow;
  /** Heights that are being set. */
  draft: Height | null;
  model: LoadedModel | null;
  /** Of the result; null where the image ships as it came. */
  address: string | null;
  /** Whether the model shows the results; null where there are none. */
  onModel: boolean | null;
  setOnModel: (on: boolean) => void;
  onMake: () => void;
}

/** One texture, source against result, pixel by pixel: any mip, single channels, lit, or its error. */
export function TextureBench({ prop, row, draft, model, address, onModel, setOnModel, onMake }: TextureBenchProps) {
  const source = useMemo(() => sourceTexture(model, row.ships_as), [model, row.ships_as]);
  useEffect(() => () => source?.dispose(), [source]);
  const { found, error } = useGpuTexture(address);
  const drafted = useHeightDraft(prop, row.image, draft);
  const result = drafted ? null : found;
  const [wanted, setWanted] = useState<TextureLook>({
    shows: row.kind === "normal" ? "lit" : "color",
    level: 0,
    split: 0.5,
    error: null,
  });
  const [zoom, setZoom] = useState<number | null>(null);
  const [stamp, setStamp] = useState(0);
  const frame = useRef<HTMLDivElement>(null);
  const change = (next: Partial<TextureLook>) => setWanted((old) => ({ ...old, ...next }));
  const framed = (next: number | null) => {
    setZoom(next);
    setStamp(stamp + 1);
  };
  const shown = drafted ?? source ?? result?.texture ?? null;
  const compared = source ? result : null;
  const levels = result?.levels ?? Math.floor(Math.log2(Math.max(row.width, row.height))) + 1;
  const look = shownLook(wanted, levels, compared !== null);
  return (
    <section
      aria-label="Texture bench"
      className="flex h-full w-[46%] shrink-0 flex-col border-l border-rule-strong bg-paper"
    >
      <div className="flex flex-wrap items-center gap-2 border-b border-rule px-3 py-2">
        <Segmented
          label="Channels"
          value={look.shows}
          options={row.kind === "normal" ? [LIT, ...CHANNELS] : CHANNELS}
          onChange={(shows) => change({ shows })}
        />
        <SelectBox
          label="Mip level"
          className="w-44"
          value={`${look.level}`}
          options={Array.from({ length: levels }, (_, k) => ({ value: `${k}`, label: mipName(row, k) }))}
          onChange={(next) => change({ level: Number(next) })}
        />
        <Button onClick={() => framed(1)} title="one pixel of the texture on one of the screen">
          1 : 1
        </Button>
        <Button onClick={() => framed(null)} title="the whole texture">
          Fit
        </Button>
        {compared && (
          <SelectBox
            label="Pixels or their error"
            className="w-36"
            value={`${look.error ?? 0}`}
            options={[
              { value: "0", label: "Pixels" },
              ...ERRORS.map((end) => ({ value: `${end}`, label: `Error to ${end} / 255` })),
            ]}
            onChange={(end) => change({ error: Number(end) || null })}
          />
        )}
        {onModel !== null && (
          <Button
            pressed={onModel}
            onClick={() => setOnModel(!onModel)}
            title="draw the model with the compressed textures"
          >
            On the model
          </Button>
        )}
      </div>
      <div ref={frame} className="relative min-h-0 grow">
        {shown ? (
          <TextureView
            source={drafted ?? source ?? shown}
            result={compared}
            width={row.width}
            height={row.height}
            isNormal={row.kind === "normal"}
            look={look}
            zoom={zoom}
            stamp={stamp}
          />
        ) : (
          <p className="grid h-full place-items-center text-quiet">{error ?? "The texture is loading …"}</p>
        )}
        {compared && look.error === null && (
          <SplitBar frame={frame} at={look.split} onMove={(split) => change({ split })} />
        )}
        {look.error !== null && <ErrorScale end={look.error} />}
        {drafted && (
          <p className="absolute bottom-3 left-3 rounded border border-rule bg-sheet/90 px-2 py-1 text-sm">
            as it would become
          </p>
        )}
        {result?.isDecoded && (
          <p className="absolute bottom-3 left-3 rounded border border-rule bg-sheet/90 px-2 py-1 text-sm">
            This browser does not know {CODECS[result.codec]}: decoded by the server.
          </p>
        )}
      </div>
      <Reading row={row} hasResult={address !== null} error={error} onMake={onMake} />
    </section>
  );
}

function mipName(row: TextureRow, level: number): string {
  const [width, height] = [row.made?.width ?? row.width, row.made?.height ?? row.height];
  return `mip ${level}, ${count(Math.max(width >> level, 1))}${height === width ? "" : ` × ${count(Math.max(height >> level, 1))}`} px`;
}

/** What stands on either side, and how far apart they are. */
function Reading({
  row,
  hasResult,
  error,
  onMake,
}: {
  row: TextureRow;
  hasResult: boolean;
  error: string | null;
  onMake: () => void;
}) {
  const { made } = row;
  if (error) return <p className="border-t border-rule px-3 py-1.5 text-stop">{error}</p>;
  if (!made || !hasResult)
    return (
      <div className="flex items-center justify-between gap-2 border-t border-rule px-3 py-1.5">
        <span className="text-sm text-quiet">
          {row.is_changed ? "It ships changed, as an image" : "It ships as it came"}: there are no blocks to compare
          yet.
        </span>
        <Button onClick={onMake}>Make GPU textures</Button>
      </div>
    );
  return (
    <div className="flex items-center justify-between gap-3 border-t border-rule px-3 py-1.5 text-sm">
      <span>{row.ships_as ? "source" : `of ${row.materials.join(", ")}`}</span>
      <span className="figure text-center">{quality(row)}</span>
      <span>
        {CODECS[made.codec]}, <span className="figure">{made.bits_a_pixel}</span> bits a pixel
      </span>
    </div>
  );
}

function ErrorScale({ end }: { end: number }) {
  return (
    <div className="absolute right-3 bottom-3 rounded border border-rule bg-sheet/90 px-2 py-1 text-sm">
      <span
        aria-hidden
        className="block h-2 w-40"
        style={{ background: "linear-gradient(to right, #f7f5eb, #4f8fb0 33%, #e0ab40 67%, #b3261f)" }}
      />
      <span className="figure flex justify-between">
        <span>0</span>
        <span>{end} of 255</span>
      </span>
    </div>
  );
}
