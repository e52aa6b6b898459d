import type { PropDetail } from "../../api/client";
import { Button } from "../../parts/Button";
import { plural } from "../../parts/format";
import { SelectBox } from "../../parts/SelectBox";
import { NumberField } from "../../parts/TextField";
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
  return (
    <div className="space-y-2">
      <div className="text-sm text-quiet">Quads are cut along</div>
      <SelectBox
        label="Quads are cut along"
        className="w-full"
        value={settings.quads}
        options={QUADS}
        onChange={(quads) => decide("triangulation", { quads })}
      />
      <div className="text-sm text-quiet">Larger polygons are cut</div>
      <SelectBox
        label="Larger polygons are cut"
        className="w-full"
        value={settings.ngons}
        options={POLYGONS}
        onChange={(ngons) => decide("triangulation", { ngons })}
      />
      <NumberField
        label="Cut from"
        unit="sides"
        inline
        value={settings.min_sides}
        onCommit={(value) => value >= 3 && decide("triangulation", { min_sides: Math.round(value) })}
      />
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
