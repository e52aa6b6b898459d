import type { PropDetail } from "../../api/client";
import { Button } from "../../parts/Button";
import { CheckRow } from "../../parts/CheckRow";
import { count, plural, toThree } from "../../parts/format";
import { SelectBox } from "../../parts/SelectBox";
import { NumberField } from "../../parts/TextField";
import type { Decide, Settings } from "../bench";
import { Labelled, settingFields } from "../settingFields";
import { ChannelList } from "./ChannelList";

type Uvs = Settings["uvs"];

const METHODS: { value: Uvs["method"]; label: string }[] = [
  { value: "source", label: "Keep the source's" },
  { value: "repack", label: "Repack the source's islands" },
  { value: "unwrap", label: "Unwrap" },
  { value: "box", label: "Project from six sides" },
  { value: "planar", label: "Project flat" },
  { value: "cylinder", label: "Project around a cylinder" },
  { value: "sphere", label: "Project around a sphere" },
];
const AXES: { value: Uvs["axis"]; label: string }[] = [
  { value: "x", label: "X" },
  { value: "y", label: "Y, up" },
  { value: "z", label: "Z" },
];
/** Pixels per metre with which a density begins. */
const DENSITY = 512;
const LIGHT_MAPS: { value: Uvs["light_map"]; label: string }[] = [
  { value: "off", label: "None asked for" },
  { value: "source", label: "The source's, or stop" },
  { value: "make", label: "Make where missing" },
];

const TURNS = [
  { value: "4", label: "4" },
  { value: "8", label: "8" },
  { value: "16", label: "16" },
];

/** Pixels per metre that are asked for, where as many as fit are not what is wanted. */
function OptionalDensity({ settings, decide }: { settings: Uvs; decide: Decide }) {
  const { density } = settings;
  return (
    <>
      <CheckRow
        label="As dense as fits"
        checked={density == null}
        onChange={(most) => decide("uvs", { density: most ? null : DENSITY })}
      />
      {density != null && (
        <NumberField
          inline
          label="Density"
          unit="px/m"
          value={density}
          limits={{ above: 0, high: 65536 }}
          onCommit={(asked) => decide("uvs", { density: asked })}
        />
      )}
    </>
  );
}

/** Where channel 0 comes from, how what is made is packed, and whether there is a light map. */
export function UvsSettings({ prop, decide }: { prop: PropDetail; decide: Decide }) {
  const settings = prop.settings.uvs;
  const field = settingFields("uvs", settings, decide);
  const facts = prop.facts.uvs;
  const light = facts?.light_map;
  const made = facts?.channels[0]?.made;
  const marked = settings.seams.length + settings.straight.length + settings.weights.length + settings.locked.length;
  const makes = settings.method !== "source" || made === "unwrap" || (facts?.unwrapped_parts.length ?? 0) > 0;
  return (
    <div className="space-y-2">
      {field.choice("method", "Channel 0 comes from", METHODS)}
      {settings.method === "source" && makes && (
        <p className="text-sm text-quiet">
          {made === "unwrap" ? "The source has none: it was unwrapped." : "Some parts have none: they were unwrapped."}
        </p>
      )}
      {["planar", "cylinder", "sphere"].includes(settings.method) &&
        field.choice("axis", "Axis", AXES, { width: "w-24", label: "Axis of the projection" })}
      {makes && (
        <>
          {field.number("resolution", "Texture", { unit: "px" })}
          <OptionalDensity settings={settings} decide={decide} />
          {field.number("padding", "Padding", { unit: "px" })}
          <Labelled words="Turns of an island" beside>
            <SelectBox
              label="Turns of an island"
              className="w-24"
              value={`${settings.rotations}`}
              options={TURNS}
              onChange={(turns) => decide("uvs", { rotations: Number(turns) as Uvs["rotations"] })}
            />
          </Labelled>
          {field.check("stack_equal", "Stack equal islands", "equal and mirrored islands lie in one place")}
          {settings.method !== "repack" && field.check("hard_edge_seams", "Hard edges are seams")}
        </>
      )}
      {marked > 0 && (
        <div className="space-y-1 border-t border-rule pt-2">
          <p className="figure text-sm">
            {plural(settings.seams.length, "seam edge")} · {plural(settings.straight.length, "straight strip")} ·{" "}
            {plural(settings.weights.length + settings.locked.length, "island mark")}
          </p>
          <Button
            className="w-full justify-center"
            onClick={() => decide("uvs", { seams: [], straight: [], weights: [], locked: [] })}
          >
            Clear all marks
          </Button>
        </div>
      )}
      <div className="space-y-2 border-t border-rule pt-2">
        {field.number("inset", "Pull islands in", { unit: "px" })}
        {field.number("fill", "Fill around islands", { unit: "px" })}
      </div>
      {(prop.facts.source?.uv_channels ?? 0) > 0 && (
        <div className="border-t border-rule pt-2">
          <ChannelList chosen={settings.channels} count={prop.facts.source?.uv_channels ?? 0} decide={decide} />
        </div>
      )}
      <div className="space-y-2 border-t border-rule pt-2">
        {field.choice("light_map", "Light map, channel 1", LIGHT_MAPS)}
        {settings.light_map !== "off" && (
          <>
            {field.number("light_map_density", "Density", { unit: "px/m" })}
            {settings.light_map === "make" && field.number("light_map_padding", "Padding", { unit: "px" })}
            {field.number("light_map_max", "Largest side", { unit: "px" })}
          </>
        )}
        {light && (
          <p className="figure text-sm">
            {count(light.resolution)} × {count(light.resolution)} px · {toThree(light.pixels_per_metre)} px/m
          </p>
        )}
      </div>
    </div>
  );
}
