/** What the tools that mark normals take of a surface where the pointer is, and what that costs. */
import { plural } from "../../parts/format";
import {
  aboveAngle,
  borderOf,
  edgeAt,
  edgeLoop,
  edgesWhere,
  type Grow,
  islandBorders,
  materialBorders,
  patchAt,
  polygonTriangles,
} from "../../surface/select";
import type { LiveShading } from "../../surface/shading";
import { isOutline, type Surface } from "../../surface/surface";
import type { SurfaceHit } from "../../viewport/useSurfaceHits";

export type Tool = "edge" | "loop" | "border" | "patch" | "flip";
export type Act = "hard" | "soft" | "clear";
export type Scope = "face" | "patch" | "shell";
export type Sweep = "above" | "islands" | "materials";

/** The tool in hand, and how its patches grow; `scope` is how much is flipped. */
export interface Hand {
  tool: Tool | null;
  grow: Grow;
  growAngle: number;
  scope: Scope;
}

/** What a click would take: its edges, the triangles of a patch, and what it costs. */
export interface Aim {
  /** The edge or the patch that it grew from: the pointer moves over it without a new search. */
  seed: number | Set<number> | null;
  edges: number[];
  triangles: Set<number> | null;
  text: string;
}

/** What a click there would take, without words; null where it would take nothing. */
export function aimAt(surface: Surface, { tool, grow, growAngle, scope }: Hand, hit: SurfaceHit): Aim | null {
  if (!tool) return null;
  if (tool === "edge" || tool === "loop") {
    const seed = edgeAt(surface, hit.triangle, hit.point);
    if (seed === null) return null;
    const edges = tool === "edge" ? [seed] : edgeLoop(surface, seed);
    return { seed, edges, triangles: null, text: "" };
  }
  const turns = tool === "flip";
  const by = turns ? (scope === "shell" ? "shell" : "angle") : grow;
  const triangles =
    turns && scope === "face"
      ? new Set(polygonTriangles(surface, hit.triangle))
      : patchAt(surface, hit.triangle, by, growAngle);
  return {
    seed: triangles,
    edges: borderOf(surface, triangles),
    triangles: tool === "border" ? null : triangles,
    text: "",
  };
}

/** Whether the pointer is still on what an aim grew from. */
export function isStillAt(surface: Surface, { seed }: Aim, hit: SurfaceHit): boolean {
  if (seed instanceof Set) return seed.has(hit.triangle);
  return seed !== null && edgeAt(surface, hit.triangle, hit.point) === seed;
}

/** The edges between triangles of a patch. */
export function edgesWithin(surface: Surface, triangles: ReadonlySet<number>): number[] {
  return edgesWhere(surface, (c, d) => triangles.has(Math.floor(c / 3)) && triangles.has(Math.floor(d / 3)));
}

/** All edges of a kind. */
export function edgesOf(surface: Surface, kind: Sweep, angle: number): number[] {
  if (kind === "above") return aboveAngle(surface, angle);
  return kind === "islands" ? islandBorders(surface) : materialBorders(surface);
}

/** The edges at which the shading breaks. */
export function hardEdges(surface: Surface, live: LiveShading): number[] {
  const { twin } = surface.sheet;
  const found: number[] = [];
  for (let c = 0; c < twin.length; c += 1) {
    if (twin[c]! > c && !live.isSmooth(c) && isOutline(surface, c)) found.push(c);
  }
  return found;
}

const MOST_COSTED = 40_000;

/** What an aim would take, in words, and what marking it costs. */
export function aimInWords(tool: Tool, act: Act, aim: Aim, live: LiveShading, surface: Surface): string {
  if (tool === "flip") return `flip ${plural(aim.triangles?.size ?? 0, "triangle")}`;
  const edges =
    tool === "patch" && aim.triangles
      ? edgesWithin(surface, aim.triangles)
      : aim.edges.filter((c) => surface.sheet.twin[c]! >= 0);
  const what = tool === "patch" ? plural(aim.triangles?.size ?? 0, "triangle") : plural(edges.length, "edge");
  if (edges.length > MOST_COSTED) return what;
  const change = live.costOf(edges, act);
  return `${what} · ${change > 0 ? "+" : change < 0 ? "−" : "±"}${Math.abs(change)} engine vertices`;
}
