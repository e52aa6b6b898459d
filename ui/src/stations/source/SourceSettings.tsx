import { useRef } from "react";

import type { PropDetail } from "../../api/client";
import { Button } from "../../parts/Button";
import { Labelled, settingFields } from "../settingFields";
import { TextField } from "../../parts/TextField";
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
  const { send: replace, sending } = useReplaceSource(prop.id);
  const set = (changes: Partial<Source>) => decide("source", changes);
  const field = settingFields("source", settings, decide);
  return (
    <div className="space-y-2.5">
      {settings.prop == null ? (
        field.choice("split", "One prop is", SPLITS)
      ) : (
        <Labelled words="One prop is">
          <p className="figure truncate" title={settings.prop}>
            {settings.prop}
          </p>
        </Labelled>
      )}
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
      {field.check("include_hidden", "Include hidden parts")}
      {field.check("join", "Join parts into one mesh", "else each part is a node of its own below its level")}
      {field.check("instances_once", "Instances as one prop")}
      {field.check("merge_materials", "Merge equal materials", "same values and images, whatever the names")}
      {field.check(
        "connect_maps",
        "Connect maps beside it by name",
        "brass_rough.png fills the empty place of the material brass",
      )}
      {field.check("letter_materials", "Letter the materials", "A_brass, B_glass ... so that their order shows")}
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
