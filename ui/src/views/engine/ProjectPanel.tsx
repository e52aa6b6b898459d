import type { Engine } from "../../api/client";
import { useActivity } from "../../app/activity";
import { Button } from "../../parts/Button";
import { plural } from "../../parts/format";
import { Progress } from "../../parts/Progress";
import { Segmented } from "../../parts/Segmented";
import { SelectBox } from "../../parts/SelectBox";
import { TextField } from "../../parts/TextField";
import type { EngineWays } from "./useEngineWays";

interface ProjectPanelProps {
  engine: Engine;
  folder: string;
  destinations: { name: string; title: string }[];
  ways: EngineWays;
  onFolder: (folder: string) => void;
}

/** Which folder is watched, how its files are read, and what of them is due. */
export function ProjectPanel({ engine, folder, destinations, ways, onFolder }: ProjectPanelProps) {
  const { jobs } = useActivity();
  const job = jobs.find(({ kind, subject }) => kind === "import" && subject === engine.id);
  const changed = engine.assets.filter(({ change }) => change === "changed").length;
  const vanished = engine.assets.filter(({ change }) => change === "vanished").length;
  const due = engine.noticed.length + changed;
  return (
    <div className="space-y-2 border-b border-rule px-4 py-3">
      <h1 className="text-lg font-semibold">Engine project</h1>
      <div className="flex items-center gap-2">
        <span className="figure text-quiet" title={engine.root}>
          {engine.root.split("/").at(-1)}/
        </span>
        <TextField bare label="Folder" value={folder} onCommit={onFolder} />
      </div>
      <div className="flex items-center gap-2">
        <SelectBox
          label="Reads as"
          className="w-58 [&>span]:truncate"
          value={engine.destination}
          options={destinations.map(({ name, title }) => ({ value: name, label: title }))}
          onChange={(destination) => ways.setUp({ destination, indices: engine.indices })}
        />
        <Segmented
          label="Indices"
          value={String(engine.indices)}
          options={[
            { value: "16", label: "16", hint: "16-bit indices: 65 535 vertices a mesh" },
            { value: "32", label: "32 bit", hint: "32-bit indices" },
          ]}
          onChange={(indices) => ways.setUp({ destination: engine.destination, indices: Number(indices) })}
        />
      </div>
      <div className="flex items-center gap-3">
        <Button kind="mark" disabled={!due || engine.is_importing || ways.isBusy} onClick={ways.importDue}>
          {engine.is_importing ? "importing …" : `Import ${plural(due, "file")}`}
        </Button>
        <span className="text-sm text-quiet">
          {engine.noticed.length} new, {changed} changed, {vanished} vanished
        </span>
      </div>
      {engine.is_importing && <Progress label="import" fraction={job?.fraction ?? 0} />}
      {engine.error && (
        <p role="alert" className="text-stop">
          The last import stopped: {engine.error}
        </p>
      )}
    </div>
  );
}
