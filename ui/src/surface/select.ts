import { before, isCut, isOutline, next, type Surface } from "./surface";

export type Grow = "angle" | "material" | "part" | "shell";

/** Steps a loop over triangles may turn aside before it stops, in degrees. */
const STRAIGHT = 40;

/** The half-edge of triangle `t` nearest to a point; only such as `allowed` lets through. */
export function nearestHalfEdge(
  surface: Surface,
  t: number,
  point: [number, number, number],
  allowed: (c: number) => boolean,
): number | null {
  let best: number | null = null;
  let least = Infinity;
  for (let c = 3 * t; c < 3 * t + 3; c += 1) {
    if (!allowed(c)) continue;
    const off = distanceToEdge(surface, c, point);
    if (off < least) {
      least = off;
      best = c;
    }
  }
  return best;
}

function distanceToEdge({ positions }: Surface, c: number, [x, y, z]: [number, number, number]): number {
  const [a, b] = [3 * c, 3 * next(c)];
  const [ux, uy, uz] = [
    positions[b]! - positions[a]!,
    positions[b + 1]! - positions[a + 1]!,
    positions[b + 2]! - positions[a + 2]!,
  ];
  const [wx, wy, wz] = [x - positions[a]!, y - positions[a + 1]!, z - positions[a + 2]!];
  const s = Math.min(Math.max((wx * ux + wy * uy + wz * uz) / (ux * ux + uy * uy + uz * uz || 1), 0), 1);
  return Math.hypot(wx - s * ux, wy - s * uy, wz - s * uz);
}

/** The polygon edge nearest to a point of triangle `t`: walks over cuts, so that a quad's far side is reached too. */
export function edgeAt(surface: Surface, t: number, point: [number, number, number]): number | null {
  const polygon = surface.sheet.polygon[t];
  let best: number | null = null;
  let least = Infinity;
  for (const u of polygonTriangles(surface, t)) {
    const c = nearestHalfEdge(
      surface,
      u,
      point,
      (h) => !isCut(surface, h) && surface.sheet.polygon[Math.floor(h / 3)] === polygon,
    );
    if (c === null) continue;
    const off = distanceToEdge(surface, c, point);
    if (off < least) {
      least = off;
      best = c;
    }
  }
  return best;
}

/** Triangles cut from the same polygon as `t`: they lie one after another. */
export function polygonTriangles({ sheet, triangles }: Surface, t: number): number[] {
  const out = [t];
  for (let u = t - 1; u >= 0 && sheet.polygon[u] === sheet.polygon[t]; u -= 1) out.unshift(u);
  for (let u = t + 1; u < triangles && sheet.polygon[u] === sheet.polygon[t]; u += 1) out.push(u);
  return out;
}

/** How many sides the polygon of a triangle has. */
const sides = (surface: Surface, t: number): number => polygonTriangles(surface, t).length + 2;

/**
 * The edge loop through a half-edge. Over quads it leaves a vertex of four polygons by the edge opposite, and stops at poles
 * and borders; where triangles meet it goes on along the straightest edge.
 */
export function edgeLoop(surface: Surface, c: number): number[] {
  const twin = surface.sheet.twin[c]!;
  const seen = new Set<number>([c]);
  const out = [c];
  const walk = (from: number): void => {
    let h = from;
    for (;;) {
      const onward = nextInLoop(surface, h);
      if (onward === null) return;
      const known = surface.sheet.twin[onward]!;
      if (seen.has(onward) || seen.has(known)) return;
      seen.add(onward);
      out.push(onward);
      h = onward;
    }
  };
  walk(c);
  if (twin >= 0) walk(twin);
  else walkBorder(surface, c, seen, out);
  return out;
}

/** A border runs one way only: back along it the half-edges that end where this one starts. */
function walkBorder(surface: Surface, c: number, seen: Set<number>, out: number[]): void {
  let h = c;
  for (;;) {
    const v = surface.sheet.vertex[h]!;
    const back = outgoing(surface, v)
      .map(before)
      .find((k) => surface.sheet.twin[k]! < 0);
    if (back === undefined || seen.has(back)) return;
    seen.add(back);
    out.push(back);
    h = back;
  }
}

const outgoing = ({ start, corners }: Surface, v: number): number[] =>
  Array.from(corners.subarray(start[v]!, start[v + 1]!));

/** The half-edge that a loop goes on with after `h`, which ends at a vertex; null where it stops. */
function nextInLoop(surface: Surface, h: number): number | null {
  const { twin, vertex } = surface.sheet;
  const v = vertex[next(h)]!;
  const corners = outgoing(surface, v);
  const isBorder = corners.some((c) => twin[c]! < 0 || twin[before(c)]! < 0);
  if (twin[h]! < 0) {
    return corners.find((c) => twin[c]! < 0) ?? null;
  }
  if (isBorder) return null;
  const edges = corners.filter((c) => !isCut(surface, c));
  const quads = edges.every((c) => sides(surface, Math.floor(c / 3)) === 4);
  if (quads) return edges.length === 4 ? opposite(surface, h) : null;
  return straightest(surface, h, edges);
}

/** Around a vertex of four polygons the edge across from the one that `h` comes by: two polygons on. */
function opposite(surface: Surface, h: number): number | null {
  const { twin } = surface.sheet;
  let c = next(h);
  let met = 0;
  for (let step = 0; step < 64; step += 1) {
    if (!isCut(surface, c)) {
      met += 1;
      if (met === 2) return c;
    }
    const d = twin[c]!;
    if (d < 0) return null;
    c = next(d);
  }
  return null;
}

function straightest(surface: Surface, h: number, candidates: number[]): number | null {
  const ahead = direction(surface, h);
  let best: number | null = null;
  let most = Math.cos((STRAIGHT * Math.PI) / 180);
  for (const c of candidates) {
    if (c === surface.sheet.twin[h]) continue;
    const d = direction(surface, c);
    const along = ahead[0]! * d[0]! + ahead[1]! * d[1]! + ahead[2]! * d[2]!;
    if (along > most) {
      most = along;
      best = c;
    }
  }
  return best;
}

function direction({ positions }: Surface, c: number): number[] {
  const [a, b] = [3 * c, 3 * next(c)];
  const d = [0, 1, 2].map((k) => positions[b + k]! - positions[a + k]!);
  const length = Math.hypot(...d) || 1;
  return d.map((x) => x / length);
}

/** Triangles of the patch that grows from `t`: over small folds, or while material or part stays the same, or all. */
export function patchAt(surface: Surface, t: number, by: Grow, angle: number): Set<number> {
  const { sheet, fold, material } = surface;
  const seen = new Set<number>([t]);
  const front = [t];
  while (front.length) {
    const here = front.pop()!;
    for (let c = 3 * here; c < 3 * here + 3; c += 1) {
      const d = sheet.twin[c]!;
      if (d < 0) continue;
      const there = Math.floor(d / 3);
      if (seen.has(there)) continue;
      const same = sheet.polygon[here] === sheet.polygon[there];
      const joined =
        by === "angle"
          ? fold[c]! <= angle + 1e-6
          : by === "material"
            ? material[here] === material[there]
            : by === "part"
              ? sheet.part[here] === sheet.part[there]
              : true;
      if (!same && !joined) continue;
      seen.add(there);
      front.push(there);
    }
  }
  return seen;
}

/** Half-edges between a patch and the rest, open borders left out. */
export function borderOf({ sheet }: Surface, patch: Set<number>): number[] {
  const out: number[] = [];
  for (const t of patch) {
    for (let c = 3 * t; c < 3 * t + 3; c += 1) {
      const d = sheet.twin[c]!;
      if (d >= 0 && !patch.has(Math.floor(d / 3))) out.push(c);
    }
  }
  return out;
}

/** One half-edge of each edge that a question is true of; cuts and open borders are never asked. */
export function edgesWhere(surface: Surface, asks: (c: number, d: number) => boolean): number[] {
  const out: number[] = [];
  for (let c = 0; c < surface.fold.length; c += 1) {
    const d = surface.sheet.twin[c]!;
    if (d > c && isOutline(surface, c) && asks(c, d)) out.push(c);
  }
  return out;
}

export const aboveAngle = (surface: Surface, angle: number): number[] =>
  edgesWhere(surface, (c) => surface.fold[c]! > angle);

export const materialBorders = (surface: Surface): number[] =>
  edgesWhere(surface, (c, d) => surface.material[Math.floor(c / 3)] !== surface.material[Math.floor(d / 3)]);

/** Edges along which the UVs (or colours) of the two sides differ. */
export const islandBorders = (surface: Surface): number[] => {
  const { attribute } = surface.sheet;
  return edgesWhere(
    surface,
    (c, d) =>
      surface.material[Math.floor(c / 3)] === surface.material[Math.floor(d / 3)] &&
      (attribute[c] !== attribute[next(d)] || attribute[next(c)] !== attribute[d]),
  );
};
