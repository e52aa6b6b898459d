import type { PropDetail } from "../../api/client";
import { count } from "../../parts/format";
import { Heading } from "../../parts/Heading";
import { FaceSides } from "./FaceSides";

const degrees = (value: number): string =>
  value < 0.05 ? "0°" : value < 10 ? `${value.toFixed(1)}°` : `${value.toFixed(0)}°`;

/** Faces by number of sides, and what an engine's own cut would change. */
export function CutsEvidence({ prop }: { prop: PropDetail }) {
  const cut = prop.facts.triangulation?.engine;
  return (
    <div className="flex h-full">
      <div className="w-[46%] shrink-0 border-r border-rule">
        <FaceSides prop={prop} />
      </div>
      <div className="flex min-w-0 grow flex-col">
        <Heading
          question="What would the engine do?"
          reading={
            cut
              ? "A plain fan from each polygon's first corner, beside the cut that ships."
              : "There was nothing to cut: the source is all triangles."
          }
        />
        {cut && (
          <div
            className="min-h-0 grow overflow-auto px-4 pb-2"
            tabIndex={0}
            role="region"
            aria-label="The engine's cut compared"
          >
            <table className="w-full">
              <tbody>
                <Row
                  label="quads with another diagonal"
                  value={cut.quads_differ}
                  of={cut.quads}
                  note={`up to ${degrees(cut.quad_degrees)} of surface`}
                />
                <Row
                  label="larger polygons cut otherwise"
                  value={cut.polygons_differ}
                  of={cut.polygons}
                  note={`shading up to ${degrees(cut.shading_degrees)}`}
                />
                <Row
                  label="fans with flipped triangles"
                  value={cut.flips}
                  bad={cut.flips > 0}
                  note="seen through in the engine"
                />
                <Row
                  label="fans that overlap themselves"
                  value={cut.overlaps}
                  bad={cut.overlaps > 0}
                  note="drawn twice, flickering"
                />
                <Row
                  label="fans that leave the outline"
                  value={cut.leaves}
                  bad={cut.leaves > 0}
                  note="surface where there was none"
                />
                <Row
                  label="polygons left whole"
                  value={cut.whole}
                  bad={cut.whole_broken > 0}
                  note={cut.whole_broken ? `${count(cut.whole_broken)} of them break` : "only in OBJ and USD"}
                />
              </tbody>
            </table>
          </div>
        )}
      </div>
    </div>
  );
}

function Row({
  label,
  value,
  of,
  note,
  bad,
}: {
  label: string;
  value: number;
  of?: number;
  note: string;
  bad?: boolean;
}) {
  return (
    <tr>
      <td className={`figure w-28 py-0.5 pr-3 text-right ${bad ? "text-stop" : ""}`}>
        {count(value)}
        {of !== undefined && <span className="text-quiet"> / {count(of)}</span>}
      </td>
      <td className="whitespace-nowrap">{label}</td>
      <td className="pl-4 text-sm text-quiet">{note}</td>
    </tr>
  );
}
