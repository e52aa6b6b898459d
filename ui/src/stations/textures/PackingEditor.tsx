import { useEffect, useState } from "react";

import { Button } from "../../parts/Button";
import { Checkbox } from "../../parts/Checkbox";
import { SelectBox } from "../../parts/SelectBox";
import { NumberField, TextField } from "../../parts/TextField";
import type { Settings } from "../bench";
import { type Kind, KINDS } from "./words";

export type Packing = Settings["textures"]["packings"][number];
type Source = Packing["r"];
type Channel = "r" | "g" | "b" | "a";

const CHANNELS: Channel[] = ["r", "g", "b", "a"];
const LETTERS: Record<Channel, string> = { r: "R", g: "G", b: "B", a: "A" };
const CONSTANT = "constant";
const NOTHING = "nothing";
const NAME = /^[A-Za-z0-9]{1,24}$/;
const from = (kind: Kind): Source => ({ kind, channel: "r", invert: false, constant: 1 });
/** With what a new layout begins: what most shaders take. */
export const FIRST: Packing = {
  name: "ORM",
  r: from("occlusion"),
  g: from("roughness"),
  b: { ...from("metallic"), constant: 0 },
  a: null,
};
/** Maps that have one channel: which of an image's is not a question. */
const SINGLE = new Set<Kind>(["roughness", "metallic", "occlusion", "opacity", "height", "mask"]);

interface PackingEditorProps {
  packings: Packing[];
  /** Images ship as they came: nothing is packed. */
  isIdle: boolean;
  onChange: (packings: Packing[]) => void;
}

/** Layouts by which each material's maps are put together, channel by channel. */
export function PackingEditor({ packings, isIdle, onChange: decided }: PackingEditorProps) {
  return (
    <section aria-label="Packed maps" className="space-y-2 border-t border-rule pt-2">
      <div className="flex items-center justify-between">
        <h3 className="font-semibold">Packed maps</h3>
        <Button onClick={() => decided([...packings, { ...FIRST, name: freeName(packings) }])}>Add</Button>
      </div>
      {packings.length > 0 && isIdle && <p className="text-sm text-quiet">Made once textures ship as DDS or KTX2.</p>}
      {packings.map((packing, at) => (
        <Layout
          key={at}
          packing={packing}
          taken={packings.filter((other) => other !== packing).map(({ name }) => name)}
          onChange={(next) => decided(packings.map((old, k) => (k === at ? next : old)))}
          onRemove={() => decided(packings.filter((_, k) => k !== at))}
        />
      ))}
    </section>
  );
}

function freeName(packings: Packing[]): string {
  const taken = new Set(packings.map(({ name }) => name));
  let number = 1;
  while (taken.has(number === 1 ? FIRST.name : `${FIRST.name}${number}`)) number += 1;
  return number === 1 ? FIRST.name : `${FIRST.name}${number}`;
}

interface LayoutProps {
  packing: Packing;
  taken: string[];
  onChange: (packing: Packing) => void;
  onRemove: () => void;
}

function Layout({ packing, taken, onChange, onRemove }: LayoutProps) {
  const [wrong, setWrong] = useState<string | null>(null);
  useEffect(() => setWrong(null), [packing]);
  const renamed = (name: string) => {
    if (!NAME.test(name)) setWrong("Letters and digits alone, at most 24.");
    else if (taken.includes(name)) setWrong("Another layout has this name.");
    else onChange({ ...packing, name });
  };
  const changed = (channel: Channel, source: Source | null) => {
    const next = { ...packing, [channel]: source } as Packing;
    if (CHANNELS.every((key) => !next[key]?.kind)) setWrong("One channel at least comes from a map.");
    else onChange(next);
  };
  return (
    <fieldset className="space-y-1 rounded border border-rule p-2">
      <legend className="sr-only">{`Layout ${packing.name}`}</legend>
      <div className="flex items-end justify-between gap-2">
        <TextField inline label="Ending" value={packing.name} onCommit={renamed} />
        <Button onClick={onRemove} title={`take the layout ${packing.name} out`}>
          Remove
        </Button>
      </div>
      {CHANNELS.map((channel) => (
        <ChannelRow
          key={channel}
          channel={channel}
          source={packing[channel] ?? null}
          onChange={(source) => changed(channel, source)}
        />
      ))}
      {wrong && (
        <p role="alert" className="text-sm text-stop">
          {wrong}
        </p>
      )}
    </fieldset>
  );
}

interface ChannelRowProps {
  channel: Channel;
  source: Source | null;
  onChange: (source: Source | null) => void;
}

function ChannelRow({ channel, source, onChange }: ChannelRowProps) {
  const letter = LETTERS[channel];
  const kinds = (Object.entries(KINDS) as [Kind, string][]).filter(([kind]) => kind !== "packed");
  const chosen = source ? (source.kind ?? CONSTANT) : NOTHING;
  const choose = (value: string) => {
    if (value === NOTHING) onChange(null);
    else if (value === CONSTANT) onChange({ kind: null, channel: "r", invert: false, constant: source?.constant ?? 1 });
    else onChange({ ...(source ?? from(value as Kind)), kind: value as Kind, channel: "r" });
  };
  return (
    <div className="flex items-center gap-1.5">
      <span className="figure w-4 font-semibold">{letter}</span>
      <SelectBox
        label={`${letter} comes from`}
        className="w-28"
        value={chosen}
        options={[
          ...kinds.map(([value, label]) => ({ value: value as string, label })),
          { value: CONSTANT, label: "a constant" },
          ...(channel === "a" ? [{ value: NOTHING, label: "no alpha" }] : []),
        ]}
        onChange={choose}
      />
      {source?.kind && !SINGLE.has(source.kind) && (
        <SelectBox
          label={`channel for ${letter}`}
          className="w-14"
          value={source.channel}
          options={CHANNELS.map((value) => ({ value, label: LETTERS[value] }))}
          onChange={(taken) => onChange({ ...source, channel: taken })}
        />
      )}
      {source?.kind ? (
        <span className="flex items-center gap-1 text-sm text-quiet">
          <Checkbox
            label={`invert ${letter}`}
            checked={source.invert}
            onChange={(invert) => onChange({ ...source, invert })}
          />
          invert
        </span>
      ) : (
        source && (
          <NumberField
            inline
            label={`${letter} is`}
            value={source.constant}
            limits={{ low: 0, high: 1 }}
            onCommit={(constant) => onChange({ ...source, constant })}
          />
        )
      )}
    </div>
  );
}
