import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";

import { Button } from "../../parts/Button";
import { plural } from "../../parts/format";
import { EmptyState, Loading } from "../../parts/Notes";
import { Segmented } from "../../parts/Segmented";
import { TextField } from "../../parts/TextField";
import { useShortcuts } from "../../app/shortcuts";
import { draftQuery, type Entry, schemaQuery } from "./api";
import { effectOf } from "./effects";
import { HistoryPanel } from "./HistoryPanel";
import { NamesPanel } from "./NamesPanel";
import { type Data, groupsOf, type Kind, valueAt } from "./schema";
import { SettingRow } from "./SettingRow";
import { TrialPanel } from "./TrialPanel";
import { useDraft } from "./useDraft";
import { useWays } from "./useWays";
import { UsersPanel } from "./UsersPanel";

interface EditorProps {
  kind: Kind;
  /** What is edited; of a new one what it starts from. */
  entry: Entry;
  isNew: boolean;
  start: Data;
}

type Panel = "names" | "trial" | "history" | "props";

/** One line or destination as a page: each setting with its meaning, what it was, and what it does to the props. */
export function Editor({ kind, entry, isNew, start }: EditorProps) {
  const draft = useDraft(`${kind} ${isNew ? "" : entry.name}`, start);
  const { data: schema, error } = useQuery(schemaQuery(kind));
  const { data: seen } = useQuery(draftQuery(kind, draft.data));
  const [panel, setPanel] = useState<Panel>("names");
  const ways = useWays(kind, entry, isNew, draft.forget);
  const groups = useMemo(() => (schema ? groupsOf(kind, schema) : []), [kind, schema]);
  useShortcuts({
    "mod+z": () => draft.undo?.(),
    "mod+shift+z": () => draft.redo?.(),
  });
  // While a draft cannot be saved, the props stand as its last sound state has them.
  const [sound, setSound] = useState(seen);
  if (seen && !seen.faults.length && seen !== sound) setSound(seen);
  if (error) return <EmptyState title="The settings cannot be read">{error.message}</EmptyState>;
  if (!schema) return <Loading what="the settings" />;
  const faults = new Map((seen?.faults ?? []).map((fault) => [fault.field, fault]));
  const known = new Set(groups.flatMap(({ fields }) => fields.map(({ path }) => path)));
  const elsewhere = (seen?.faults ?? []).filter(({ field }) => !known.has(field));
  const was = (path: string) => {
    const [now, before] = [valueAt(draft.data, path), valueAt(entry.data, path)];
    return isNew || JSON.stringify(now) === JSON.stringify(before) ? undefined : { value: before };
  };
  const panels: { value: Panel; label: string }[] = [
    { value: "names", label: "Names" },
    { value: "trial", label: "Trial" },
    ...(isNew ? [] : [{ value: "history" as const, label: `History ${entry.versions.length}` }]),
    ...(kind === "line" && !isNew ? [{ value: "props" as const, label: `Props ${entry.users.length}` }] : []),
  ];
  return (
    <div className="flex min-w-0 grow flex-col">
      <header className="flex h-12 shrink-0 items-center gap-3 border-b border-rule bg-sheet px-4">
        <h1 className="min-w-24 truncate text-lg font-semibold" title={entry.title}>
          {isNew ? `A new ${kind}` : entry.title}
        </h1>
        {faults.size > 0 ? (
          <span role="status" className="shrink-0 text-stop">
            {plural(faults.size, "setting")} cannot be saved so
          </span>
        ) : (
          <span className="shrink-0 text-sm text-quiet">
            {isNew ? "not saved yet" : entry.number ? `version ${entry.number}` : "as it came with Plindro"}
            {draft.isChanged && seen && !isNew && ` · ${plural(seen.changes.length, "setting")} changed`}
          </span>
        )}
        <div className="ml-auto flex shrink-0 items-center gap-2">
          <Button aria-label="Undo" disabled={!draft.undo} onClick={() => draft.undo?.()}>
            ↶
          </Button>
          <Button aria-label="Redo" disabled={!draft.redo} onClick={() => draft.redo?.()}>
            ↷
          </Button>
          <Button disabled={!draft.isChanged} onClick={draft.forget}>
            Discard
          </Button>
          <Button onClick={() => ways.exportJson(draft.data)}>Export</Button>
          {!isNew && <Button onClick={() => ways.copy(draft.data)}>Copy as new</Button>}
          {!isNew && !entry.is_ours && <Button onClick={ways.remove}>Remove</Button>}
          <span className="w-28">
            <TextField bare label="Your name" placeholder="your name" value={ways.by} onCommit={ways.setBy} />
          </span>
          <Button
            kind="primary"
            disabled={(!draft.isChanged && !isNew) || faults.size > 0 || ways.isSaving}
            onClick={() => ways.save(draft.data)}
          >
            Save
          </Button>
        </div>
      </header>
      <div className="flex min-h-0 grow">
        <div className="min-w-0 grow overflow-auto bg-sheet px-4 pb-8">
          {elsewhere.map((fault) => (
            <p key={fault.field} role="alert" className="pt-2 text-stop">
              {fault.field}: {fault.message}
            </p>
          ))}
          {groups.map(({ title, fields }) => (
            <section key={title} aria-label={title}>
              <h2 className="sticky top-0 z-10 border-b border-rule-strong bg-sheet pt-3 pb-1 pl-[5.75rem] font-semibold">
                {title}
              </h2>
              {fields.map((spec) => (
                <SettingRow
                  key={spec.path}
                  spec={spec}
                  value={valueAt(draft.data, spec.path)}
                  before={was(spec.path)}
                  fault={faults.get(spec.path)}
                  effect={effectOf(spec.path, spec.label, draft.data, sound, (value) => draft.change(spec.path, value))}
                  onChange={(value) => draft.change(spec.path, value)}
                />
              ))}
            </section>
          ))}
        </div>
        <aside className="flex w-80 shrink-0 flex-col border-l border-rule-strong bg-paper">
          <div className="border-b border-rule p-2">
            <Segmented label="What is shown" value={panel} options={panels} onChange={setPanel} />
          </div>
          <div className="min-h-0 grow overflow-auto">
            {panel === "names" && <NamesPanel draft={sound} />}
            {panel === "trial" && <TrialPanel kind={kind} data={draft.data} isFaulty={faults.size > 0} />}
            {panel === "history" && <HistoryPanel entry={entry} onRestore={ways.restore} />}
            {panel === "props" && (
              <UsersPanel
                entry={entry}
                onBuild={ways.build}
                onBack={ways.bringBack}
                onTake={ways.takeOver}
                ofLine={known}
              />
            )}
          </div>
        </aside>
      </div>
    </div>
  );
}
