import type { PropDetail } from "../../api/client";
import { count } from "../../parts/format";
import type { Decide, Settings } from "../bench";
import { settingFields } from "../settingFields";

type Uvs = Settings["uvs"];

const METHODS: { value: Uvs["method"]; label: string }[] = [
  { value: "source", label: "Keep the source's" },
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
const LIGHT_MAPS: { value: Uvs["light_map"]; label: string }[] = [
  { value: "off", label: "None asked for" },
  { value: "source", label: "The source's, or stop" },
  { value: "make", label: "Make where missing" },
];

/** Where channel 0 comes from, how what is made is packed, and whether there is a light map. */
export function UvsSettings({ prop, decide }: { prop: PropDetail; decide: Decide }) {
  const settings = prop.settings.uvs;
  const field = settingFields("uvs", settings, decide);
  const facts = prop.facts.uvs;
  const light = facts?.light_map;
  const made = facts?.channels[0]?.made;
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
          {field.number("padding", "Padding", { unit: "px" })}
          {settings.method !== "box" && field.check("hard_edge_seams", "Hard edges are seams")}
        </>
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
            {count(light.resolution)} × {count(light.resolution)} px · {light.pixels_per_metre.toPrecision(3)} px/m
          </p>
        )}
      </div>
    </div>
  );
}
