import type { PropDetail } from "../../../api/client";
import { count } from "../../../parts/format";
import { Heading } from "./Heading";

/** The very names that will be written. */
export function Names({ prop }: { prop: PropDetail }) {
  const naming = prop.settings.naming as { prefix?: string; suffix?: string } | undefined;
  const name = prop.levels[0]?.name.replace(/_LOD0$/, "") ?? `${naming?.prefix ?? ""}${prop.name}${naming?.suffix ?? ""}`;
  return (
    <div className="flex h-full flex-col">
      <Heading question="What will the engine read?" reading="The file, its root node and below it one mesh node a level." />
      <div className="figure min-h-0 grow overflow-auto px-4 py-2">
        <div className="font-semibold">
          {name}.glb
        </div>
        <div className="pl-5">
          {name} <span className="font-sans text-sm text-quiet">root node</span>
        </div>
        {prop.levels.map((level) => (
          <div key={level.index} className="pl-10">
            {level.name}{" "}
            <span className="font-sans text-sm text-quiet">
              mesh, {count(level.triangles)} triangles, {count(level.vertices)} engine vertices
            </span>
          </div>
        ))}
      </div>
    </div>
  );
}
