/** Settings as their JSON Schema tells them, made into rows of an editor. */
import { STATIONS } from "../../stations/registry";
import type { NumberLimits } from "../../parts/TextField";

export type Kind = "line" | "destination";
export type Data = Record<string, unknown>;

export interface Schema {
  $ref?: string;
  $defs?: Record<string, Schema>;
  type?: string;
  enum?: (string | number)[];
  anyOf?: Schema[];
  items?: Schema;
  prefixItems?: Schema[];
  properties?: Record<string, Schema>;
  additionalProperties?: Schema | boolean;
  propertyNames?: Schema;
  description?: string;
  default?: unknown;
  minimum?: number;
  maximum?: number;
  exclusiveMinimum?: number;
  unit?: string;
  by_hand?: boolean;
}

type Widget = "choice" | "check" | "number" | "text" | "words" | "numbers" | "map" | "targets" | "packings" | "json";

export interface FieldSpec {
  /** Path with dots. */
  path: string;
  label: string;
  meaning: string;
  unit?: string | undefined;
  widget: Widget;
  initial: unknown;
  /** May be left empty. */
  nullable: boolean;
  options: string[];
  limits: NumberLimits;
  /** Of a map: its keys, and what they may be where that is not free. */
  keys: string[];
}

export interface FieldGroup {
  title: string;
  fields: FieldSpec[];
}

/** Settings that are tables of their own, with an editor for each. */
const TABLES: Record<string, Widget> = { "levels.levels": "targets", "textures.packings": "packings" };

const GROUPS: [string, string[]][] = [
  ["What it is", ["name", "title"]],
  ["Form of the files", ["format", "up", "hand", "unit", "scale", "winding", "indices", "normals", "tangents"]],
  [
    "Names",
    [
      ...["file_template", "level_template", "first_level", "lod0_suffix", "hierarchy", "part_template"],
      ...["proxy_template", "state_template", "material_template"],
    ],
  ],
  [
    "What it takes",
    [
      ...["max_engine_vertices", "past_limit", "max_triangles", "max_materials", "max_proxies", "max_uv_channels"],
      ...["light_map", "light_map_channel", "stops"],
    ],
  ],
];

/** Rows of the editor, in groups; what is made by hand on a prop is none of a line's. */
export function groupsOf(kind: Kind, schema: Schema): FieldGroup[] {
  const own = schema.properties ?? {};
  const rows = (names: string[]) => names.flatMap((name) => (own[name] ? [fieldOf(schema, name, own[name])] : []));
  const nested = (name: string, title: string): FieldGroup => ({ title, fields: nestedRows(schema, name) });
  if (kind === "destination")
    return [...GROUPS.map(([title, names]) => ({ title, fields: rows(names) })), nested("textures", "Textures")];
  const groups = [
    { title: "What it is", fields: rows(["name", "title"]) },
    nested("budget", "Budget"),
    ...STATIONS.map(({ name, title }) => nested(name, title)),
  ];
  return groups.filter(({ fields }) => fields.length > 0);
}

function nestedRows(schema: Schema, name: string): FieldSpec[] {
  const { properties = {} } = resolved(schema, schema.properties?.[name] ?? {});
  return Object.entries(properties)
    .filter(([, field]) => !field.by_hand)
    .map(([key, field]) => fieldOf(schema, `${name}.${key}`, field));
}

function resolved(root: Schema, schema: Schema): Schema {
  return schema.$ref ? (root.$defs?.[schema.$ref.split("/").at(-1) ?? ""] ?? {}) : schema;
}

function fieldOf(root: Schema, path: string, given: Schema): FieldSpec {
  const options = (given.anyOf ?? []).map((one) => resolved(root, one));
  const nullable = options.some(({ type }) => type === "null");
  const core = { ...given, ...(options.find(({ type }) => type !== "null") ?? resolved(root, given)) };
  return {
    path,
    label: labelOf(path),
    meaning: given.description ?? "",
    unit: given.unit,
    widget: TABLES[path] ?? widgetOf(core),
    initial: given.default,
    nullable,
    options: (core.enum ?? mapOptions(core)).map(String),
    limits: limitsOf(core),
    keys: (core.propertyNames?.enum ?? []).map(String),
  };
}

function widgetOf({ type, enum: choices, items, prefixItems, additionalProperties, properties }: Schema): Widget {
  if (choices) return "choice";
  if (type === "boolean") return "check";
  if (type === "number" || type === "integer") return "number";
  if (type === "string") return "text";
  const inner = items ?? prefixItems?.[0];
  if (type === "array" && inner?.type === "string") return "words";
  if (type === "array" && (inner?.type === "number" || inner?.type === "integer")) return "numbers";
  if (type === "object" && !properties && typeof additionalProperties === "object") return "map";
  return "json";
}

function mapOptions({ additionalProperties }: Schema): (string | number)[] {
  return typeof additionalProperties === "object" ? (additionalProperties.enum ?? []) : [];
}

function limitsOf({ type, minimum, maximum, exclusiveMinimum }: Schema): NumberLimits {
  return {
    ...(minimum === undefined ? {} : { low: minimum }),
    ...(maximum === undefined ? {} : { high: maximum }),
    ...(exclusiveMinimum === undefined ? {} : { above: exclusiveMinimum }),
    whole: type === "integer",
  };
}

const LABELS: Record<string, string> = {
  vertical_fov: "Vertical FOV",
  up: "Up axis",
  hand: "Handedness",
  stops: "Findings that stop",
  beside: "Images beside",
};
const WORDS: Record<string, string> = { uv: "UV", uvs: "UVs", lod0: "LOD0", mib: "", mm: "", m: "", px: "" };

/** "max_uv_channels" → "Max UV channels"; a unit at the end stands behind the field instead. */
export function labelOf(path: string): string {
  const known = LABELS[path.split(".").at(-1) ?? path];
  if (known) return known;
  const words = (path.split(".").at(-1) ?? path).split("_").map((word) => WORDS[word] ?? word);
  const text = words.join(" ").trim();
  return text.charAt(0).toUpperCase() + text.slice(1);
}

/** The value at a path with dots. */
export function valueAt(data: Data, path: string): unknown {
  return path.split(".").reduce<unknown>((value, key) => (value as Data | undefined)?.[key], data);
}

/** The same with the value at a path replaced. */
export function withValue(data: Data, path: string, value: unknown): Data {
  const [first = "", ...rest] = path.split(".");
  if (!rest.length) return { ...data, [first]: value };
  return { ...data, [first]: withValue((data[first] ?? {}) as Data, rest.join("."), value) };
}

/** A value in a few words, as a difference tells it. */
export function shown(value: unknown): string {
  if (value === null || value === undefined || value === "") return "none";
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (Array.isArray(value)) {
    if (!value.length) return "none";
    if (value.every((one) => typeof one !== "object")) return value.join(", ");
    return value.map(targetInWords).join(" / ");
  }
  if (typeof value === "object") {
    const rows = Object.entries(value).filter(([, one]) => one !== null && one !== undefined);
    return rows.length ? rows.map(([key, one]) => `${key}: ${shown(one)}`).join(", ") : "none";
  }
  return String(value as string | number);
}

/** A level's target as "50 %", anything else as JSON. */
function targetInWords(value: unknown): string {
  const { ratio, triangles, name } = (value ?? {}) as Data;
  if (typeof ratio === "number") return `${Number((100 * ratio).toPrecision(4))} %`;
  if (typeof triangles === "number") return `${triangles} tris`;
  if (typeof name === "string") return name;
  return JSON.stringify(value);
}
