import { useRef } from "react";

import type { PropDetail } from "../../api/client";
import { Button } from "../../parts/Button";
import { SelectBox } from "../../parts/SelectBox";
import { TextField } from "../../parts/TextField";
import { CheckRow } from "../../parts/CheckRow";
import type { Decide, Settings } from "../bench";
import { useReplaceSource } from "./useSource";

type Source = Settings["source"];

const SPLITS: { value: Source["split"]; label: string }[] = [
  { value: "file", label: "The whole file" },
  { value: "object", label: "Each object" },
  { value: "parent", label: "Each parent with its children" },
  { value: "group", label: "Each named group" },
];

const patterns = (text: string) =>
  text
    .split(",")
    .map((pattern) => pattern.trim())
    .filter(Boolean);

/** What ships of the source, as what, and the way to a new version of it. */
export function SourceSettings({ prop, decide }: { prop: PropDetail; decide: Decide }) {
  const settings = prop.settings.source;
  const input = useRef<HTMLInputElement>(null);
  const { replace, sending } = useReplaceSource(prop.id);
  const set = (changes: Partial<Source>) => decide("source", changes);
  return (
    <div className="space-y-2.5">
      <div className="space-y-1">
        <div className="text-sm text-quiet">One prop is</div>
        {settings.prop == null ? (
          <SelectBox
            label="One prop is"
            className="w-full"
            value={settings.split}
            options={SPLITS}
            onChange={(split) => set({ split })}
          />
        ) : (
          <p className="figure truncate" title={settings.prop}>
            {settings.prop}
          </p>
        )}
      </div>
      <TextField
        label="Include (patterns, with commas)"
        value={settings.include.join(", ")}
        placeholder="everything"
        onCommit={(text) => set({ include: patterns(text) })}
      />
      <TextField
        label="Exclude (patterns)"
        value={settings.exclude.join(", ")}
        placeholder="e.g. ref_*, *_helper"
        onCommit={(text) => set({ exclude: patterns(text) })}
      />
      <CheckRow
        label="Include hidden parts"
        checked={settings.include_hidden}
        onChange={(include_hidden) => set({ include_hidden })}
      />
      <CheckRow
        label="Join parts into one mesh"
        hint="else each part is a node of its own below its level"
        checked={settings.join}
        onChange={(join) => set({ join })}
      />
      <CheckRow
        label="Instances as one prop"
        checked={settings.instances_once}
        onChange={(instances_once) => set({ instances_once })}
      />
      <CheckRow
        label="Merge equal materials"
        hint="same values and images, whatever the names"
        checked={settings.merge_materials}
        onChange={(merge_materials) => set({ merge_materials })}
      />
      <CheckRow
        label="Letter the materials"
        hint="A_brass, B_glass ... so that their order shows"
        checked={settings.letter_materials}
        onChange={(letter_materials) => set({ letter_materials })}
      />
      <input
        ref={input}
        type="file"
        multiple
        hidden
        aria-label="New version of the source"
        onChange={(event) => {
          void replace([...(event.target.files ?? [])].map((file) => ({ file, path: file.name })));
          event.target.value = "";
        }}
      />
      <Button className="w-full justify-center" disabled={sending !== null} onClick={() => input.current?.click()}>
        {sending === null ? "Replace the source…" : `sending ${Math.round(sending * 100)} %`}
      </Button>
    </div>
  );
}
