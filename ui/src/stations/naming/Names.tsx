import { useQuery } from "@tanstack/react-query";

import type { PropDetail } from "../../api/client";
import { leftBehindQuery } from "../../api/queries";
import { Heading } from "../../parts/Heading";
import { count } from "../../parts/format";
import { SeverityShape } from "../../parts/Severity";

/** The very names that will be written, of the prop and of its states. */
export function Names({ prop }: { prop: PropDetail }) {
  const proxies = prop.facts.naming?.proxies ?? [];
  const { data: left = [] } = useQuery(leftBehindQuery(prop.id, prop.names.map(({ root }) => root).join(" ")));
  return (
    <div className="flex h-full flex-col">
      <Heading
        question="What will the engine read?"
        reading="Each file, its root node, and below it one mesh node a level."
      />
      <div
        className="figure flex min-h-0 grow gap-10 overflow-auto px-4 py-2"
        tabIndex={0}
        role="region"
        aria-label="Names that ship"
      >
        {prop.names.map((names, i) => {
          const levels = i === 0 ? prop.levels : (prop.states[i - 1]?.levels ?? []);
          return (
            <div key={names.root}>
              <div className="font-semibold">{names.files.join(", ")}</div>
              <div className="pl-5">
                {names.root} <span className="font-sans text-sm text-quiet">root node</span>
              </div>
              {names.levels.map((name, level) => (
                <div key={name} className="pl-10">
                  {name}{" "}
                  {levels[level] && (
                    <span className="font-sans text-sm text-quiet">
                      mesh, {count(levels[level].triangles)} triangles, {count(levels[level].vertices)} engine vertices
                    </span>
                  )}
                </div>
              ))}
              {i === 0 && proxies.length > 0 && (
                <div className="pl-10">
                  {proxies.length > 1 ? `${proxies[0]} … ${proxies.at(-1)}` : proxies[0]}{" "}
                  <span className="font-sans text-sm text-quiet">
                    collision, {proxies.length} {proxies.length === 1 ? "mesh" : "meshes"}
                  </span>
                </div>
              )}
            </div>
          );
        })}
      </div>
      {left.map(({ destination, files }) => (
        <p key={destination} className="flex items-center gap-1.5 px-4 pb-1 text-warning">
          <SeverityShape severity="warning" />
          An earlier shipment to {destination} wrote {files.join(", ")}; the next one leaves{" "}
          {files.length === 1 ? "it" : "them"} behind.
        </p>
      ))}
    </div>
  );
}
