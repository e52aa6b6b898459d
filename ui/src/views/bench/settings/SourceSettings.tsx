import { useRef } from "react";

import type { PropDetail } from "../../../api/client";
import { Button } from "../../../parts/Button";
import { SelectBox } from "../../../parts/SelectBox";
import { TextField } from "../../../parts/TextField";
import { Ticked } from "../../../parts/Ticked";
import type { Decide } from "../useDecisions";
import { useReplaceSource } from "../useSource";

export interface SourceValues {
  only: string[];
  leave_out: string[];
  hidden: boolean;
  out: string[];
  kept: string[];
  split: "file" | "object" | "parent" | "group";
  prop: string | null;
  instances_once: boolean;
  join: boolean;
  merge_materials: boolean;
  letters: boolean;
}

const SPLITS = [
  { value: "file", label: "The whole file" },
  { value: "object", label: "Each object" },
  { value: "parent", label: "Each parent with its children" },
  { value: "group", label: "Each named group" },
];

const patterns = (text: string) => text.split(",").map((pattern) => pattern.trim()).filter(Boolean);

/** What ships of the source, as what, and the way to a new version of it. */
export function SourceSettings({ prop, decide }: { prop: PropDetail; decide: Decide }) {
  const settings = prop.settings.source as unknown as SourceValues;
  const input = useRef<HTMLInputElement>(null);
  const { replace, sending } = useReplaceSource(prop.id);
  const set = (changes: Partial<SourceValues>) => decide("source", changes);
  return (
    <div className="space-y-2.5">
      <div className="space-y-1">
        <div className="text-sm text-quiet">One prop is</div>
        {settings.prop === null ? (
          <SelectBox label="One prop is" className="w-full" value={settings.split} options={SPLITS} onChange={(split) => set({ split: split as SourceValues["split"] })} />
        ) : (
          <p className="figure truncate" title={settings.prop}>
            {settings.prop}
          </p>
        )}
      </div>
      <TextField label="Ships only (patterns, with commas)" value={settings.only.join(", ")} placeholder="everything" onCommit={(text) => set({ only: patterns(text) })} />
      <TextField label="Stays behind (patterns)" value={settings.leave_out.join(", ")} placeholder="e.g. ref_*, *_helper" onCommit={(text) => set({ leave_out: patterns(text) })} />
      <Ticked label="Ship what is hidden too" checked={settings.hidden} onChange={(hidden) => set({ hidden })} />
      <Ticked label="Join parts into one mesh" hint="else each part is a node of its own below its level" checked={settings.join} onChange={(join) => set({ join })} />
      <Ticked label="Instances are one prop" checked={settings.instances_once} onChange={(instances_once) => set({ instances_once })} />
      <Ticked label="Merge equal materials" hint="same values and images, whatever the names" checked={settings.merge_materials} onChange={(merge_materials) => set({ merge_materials })} />
      <Ticked label="Letters before materials" hint="A_brass, B_glass ... so that their order shows" checked={settings.letters} onChange={(letters) => set({ letters })} />
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
