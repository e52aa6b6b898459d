import type { PropDetail } from "../../api/client";
import { Button } from "../../parts/Button";
import { plural } from "../../parts/format";
import { settingFields } from "../settingFields";
import type { Decide, Settings } from "../bench";

type Triangulation = Settings["triangulation"];

const QUADS: { value: Triangulation["quads"]; label: string }[] = [
  { value: "shortest", label: "Shortest diagonal" },
  { value: "shapely", label: "Better-shaped pair" },
  { value: "first", label: "Always first to third" },
  { value: "second", label: "Always second to fourth" },
];
const POLYGONS: { value: Triangulation["ngons"]; label: string }[] = [
  { value: "ears", label: "Ear clipping" },
  { value: "shapely", label: "Best-shaped triangles" },
];

/** How polygons are cut. */
export function TriangulationSettings({ prop, decide }: { prop: PropDetail; decide: Decide }) {
  const settings = prop.settings.triangulation;
  const field = settingFields("triangulation", settings, decide);
  return (
    <div className="space-y-2">
      {field.choice("quads", "Quads are cut along", QUADS)}
      {field.choice("ngons", "Larger polygons are cut", POLYGONS)}
      {field.number("min_sides", "Cut from", { unit: "sides" })}
      <p className="text-sm text-quiet">OBJ and USD keep polygons of fewer sides whole; glTF holds triangles only.</p>
      <p className="text-sm text-quiet">Click a diagonal on the model to flip it.</p>
      {settings.flipped_diagonals.length > 0 && (
        <Button className="w-full justify-center" onClick={() => decide("triangulation", { flipped_diagonals: [] })}>
          Reset {plural(settings.flipped_diagonals.length, "flipped diagonal")}
        </Button>
      )}
    </div>
  );
}
