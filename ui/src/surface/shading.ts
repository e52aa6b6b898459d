import { MADE_HARD, MADE_SOFT, OWN_HARD } from "./sheet";
import { next, runsOn, type Surface } from "./surface";

type Weights = "angle" | "area" | "area-angle" | "large";

export interface Rule {
  /** Degrees above which edges are hard; null where the source's shading decides. */
  angle: number | null;
  /** Whether edges that are hard in the source count. */
  ownHard: boolean;
  weights: Weights;
  share: number;
  strength: number;
}

/**
 * The corner normals of a surface, kept up to date while edges turn hard or soft. Only vertices at an edge that changed are
 * computed again, so that a threshold can move with the pointer.
 */
export class LiveShading {
  /** Engine vertices by the fans of each vertex and what else its corners differ in. */
  cost = 0;
  private built = 0;
  private readonly smooth: Uint8Array;
  private readonly marks: Uint8Array;
  /** Half-edges by their fold, and where each bin of `BIN` degrees begins among them. */
  private readonly order: Uint32Array;
  private readonly bins: Uint32Array;
  private readonly vertexCost: Uint16Array;
  private readonly corner: Float32Array;
  /** Scratch: the fan of each corner of the vertex in hand. */
  private readonly fan: Int32Array;
  private readonly touchedVertices: Uint8Array;
  private rule: Rule;

  constructor(
    private readonly surface: Surface,
    rule: Rule,
    /** Nine numbers a triangle, as they ship; written in place. */
    readonly normals: Float32Array,
  ) {
    const { sheet, fold } = surface;
    this.rule = rule;
    this.marks = sheet.edge.slice();
    this.corner = cornerAngles(surface.positions);
    [this.order, this.bins] = sortByFold(fold, sheet.twin);
    this.smooth = new Uint8Array(fold.length);
    for (const c of this.order) this.setSmooth(c, this.wanted(c));
    this.vertexCost = new Uint16Array(surface.start.length - 1);
    this.touchedVertices = new Uint8Array(surface.start.length - 1);
    let most = 0;
    for (let v = 0; v + 1 < surface.start.length; v += 1)
      most = Math.max(most, surface.start[v + 1]! - surface.start[v]!);
    this.fan = new Int32Array(most);
    for (let v = 0; v < this.vertexCost.length; v += 1) this.cost += this.vertexCost[v] = this.shadeVertex(v, false);
    this.built = this.cost;
  }

  /** Engine vertices more or fewer than as it was built. */
  get change(): number {
    return this.cost - this.built;
  }

  /** Whether a half-edge is smooth now. */
  isSmooth(c: number): boolean {
    return this.smooth[c] === 1;
  }

  /** Move the threshold; what lies between the old one and the new is all that changes. */
  setAngle(angle: number): void {
    const old = this.rule.angle;
    this.rule = { ...this.rule, angle };
    if (old === null) return this.refresh(this.order);
    const [low, high] = old < angle ? [old, angle] : [angle, old];
    this.refresh(this.order.subarray(this.bins[binOf(low)]!, this.bins[binOf(high) + 1]!));
  }

  /** Mark edges hard or soft, or take their marks away. */
  mark(halfEdges: Iterable<number>, as: "hard" | "soft" | "clear"): void {
    const both: number[] = [];
    const bit = as === "hard" ? MADE_HARD : as === "soft" ? MADE_SOFT : 0;
    for (const c of halfEdges) {
      const d = this.surface.sheet.twin[c]!;
      if (d < 0) continue;
      for (const h of [c, d]) this.marks[h] = (this.marks[h]! & OWN_HARD) | bit;
      both.push(Math.min(c, d));
    }
    this.refresh(both);
  }

  /** Engine vertices that would come or go if these edges were marked so; nothing is changed. */
  costOf(halfEdges: number[], as: "hard" | "soft" | "clear"): number {
    const kept = halfEdges.map((c) => this.marks[c]!);
    const cost = this.cost;
    const normals = new Map<number, Float32Array>();
    for (const v of this.touched(halfEdges)) normals.set(v, this.saved(v));
    this.mark(halfEdges, as);
    const change = this.cost - cost;
    halfEdges.forEach((c, i) => {
      const d = this.surface.sheet.twin[c]!;
      this.marks[c] = kept[i]!;
      if (d >= 0) this.marks[d] = kept[i]!;
    });
    this.refresh(halfEdges.filter((c) => this.surface.sheet.twin[c]! >= 0));
    for (const [v, values] of normals) this.restore(v, values);
    return change;
  }

  private *touched(halfEdges: Iterable<number>): Generator<number> {
    for (const c of halfEdges) {
      yield this.surface.sheet.vertex[c]!;
      yield this.surface.sheet.vertex[next(c)]!;
    }
  }

  private saved(v: number): Float32Array {
    const { start, corners } = this.surface;
    const out: number[] = [];
    for (let i = start[v]!; i < start[v + 1]!; i += 1)
      for (let k = 0; k < 3; k += 1) out.push(this.normals[3 * corners[i]! + k]!);
    return new Float32Array(out);
  }

  private restore(v: number, values: Float32Array): void {
    const { start, corners } = this.surface;
    for (let i = start[v]!, j = 0; i < start[v + 1]!; i += 1)
      for (let k = 0; k < 3; k += 1, j += 1) this.normals[3 * corners[i]! + k] = values[j]!;
  }

  private wanted(c: number): boolean {
    const bits = this.marks[c]!;
    if (bits & MADE_HARD) return false;
    if (bits & MADE_SOFT) return true;
    if (this.rule.angle === null) return runsOn(this.surface, c);
    return this.surface.fold[c]! <= this.rule.angle + 1e-4 && !(this.rule.ownHard && bits & OWN_HARD);
  }

  private setSmooth(c: number, value: boolean): void {
    this.smooth[c] = value ? 1 : 0;
    this.smooth[this.surface.sheet.twin[c]!] = value ? 1 : 0;
  }

  private refresh(halfEdges: Iterable<number>): void {
    const vertices: number[] = [];
    const { vertex } = this.surface.sheet;
    const touch = (v: number): void => {
      if (this.touchedVertices[v]) return;
      this.touchedVertices[v] = 1;
      vertices.push(v);
    };
    for (const c of halfEdges) {
      const value = this.wanted(c);
      if (value === this.isSmooth(c)) continue;
      this.setSmooth(c, value);
      touch(vertex[c]!);
      touch(vertex[next(c)]!);
    }
    for (const v of vertices) {
      this.touchedVertices[v] = 0;
      const cost = this.shadeVertex(v, true);
      this.cost += cost - this.vertexCost[v]!;
      this.vertexCost[v] = cost;
    }
  }

  /** Fans around a vertex, their normals where asked for; returns how many engine vertices they make. */
  private shadeVertex(v: number, writes: boolean): number {
    const { start, corners, sheet, faces } = this.surface;
    const { fan, smooth } = this;
    const from = start[v]!;
    const to = start[v + 1]!;
    const size = to - from;
    for (let i = 0; i < size; i += 1) fan[i] = i;
    for (let i = 0; i < size; i += 1) {
      const c = corners[from + i]!;
      if (smooth[c] !== 1) continue;
      const wanted = next(sheet.twin[c]!);
      let j = 0;
      while (j < size && corners[from + j] !== wanted) j += 1;
      if (j === size) continue;
      let a = i;
      let b = j;
      while (fan[a] !== a) a = fan[a]!;
      while (fan[b] !== b) b = fan[b]!;
      if (a < b) fan[b] = a;
      else fan[a] = b;
    }
    let kinds = 0;
    for (let i = 0; i < size; i += 1) {
      let r = i;
      while (fan[r] !== r) r = fan[r]!;
      fan[i] = r;
      const kind = sheet.attribute[corners[from + i]!];
      let j = 0;
      while (j < i && (fan[j] !== r || sheet.attribute[corners[from + j]!] !== kind)) j += 1;
      if (j === i) kinds += 1;
    }
    if (!writes) return kinds;
    for (let r = 0; r < size; r += 1) {
      if (fan[r] !== r) continue;
      const largest = this.rule.weights === "large" ? this.largestFlat(from, size, r) : 0;
      let x = 0;
      let y = 0;
      let z = 0;
      for (let i = r; i < size; i += 1) {
        if (fan[i] !== r) continue;
        const c = corners[from + i]!;
        const t = 3 * ((c / 3) | 0);
        const weight = this.weightOf(c, from, size, r, largest);
        x += weight * faces[t]!;
        y += weight * faces[t + 1]!;
        z += weight * faces[t + 2]!;
      }
      const length = Math.sqrt(x * x + y * y + z * z);
      const own = !(length > 1e-12);
      for (let i = r; i < size; i += 1) {
        if (fan[i] !== r) continue;
        const c = corners[from + i]!;
        const t = 3 * ((c / 3) | 0);
        this.normals[3 * c] = own ? faces[t]! : x / length;
        this.normals[3 * c + 1] = own ? faces[t + 1]! : y / length;
        this.normals[3 * c + 2] = own ? faces[t + 2]! : z / length;
      }
    }
    return kinds;
  }

  private weightOf(c: number, from: number, size: number, root: number, largest: number): number {
    const { weights, share, strength } = this.rule;
    const angle = this.corner[c]!;
    if (weights === "angle") return angle;
    const area = this.surface.sheet.flat[(c / 3) | 0]!;
    if (weights === "area-angle") return angle * area;
    if (weights === "area") return (angle * area) / this.angleOfFlat(from, size, root, area);
    return angle * (1 - strength + (area >= share * largest * (1 - 1e-6) ? strength : 0));
  }

  private largestFlat(from: number, size: number, root: number): number {
    const { corners, sheet } = this.surface;
    let largest = 0;
    for (let i = root; i < size; i += 1)
      if (this.fan[i] === root) largest = Math.max(largest, sheet.flat[(corners[from + i]! / 3) | 0]!);
    return largest;
  }

  /** Angle that a flat takes around a fan: it counts once however it is cut. Flats are told apart by their area. */
  private angleOfFlat(from: number, size: number, root: number, area: number): number {
    const { corners, sheet } = this.surface;
    let sum = 0;
    for (let i = root; i < size; i += 1) {
      const c = corners[from + i]!;
      if (this.fan[i] === root && sheet.flat[(c / 3) | 0] === area) sum += this.corner[c]!;
    }
    return sum || 1;
  }
}

function cornerAngles(p: Float32Array): Float32Array {
  const out = new Float32Array(p.length / 3);
  for (let c = 0; c < out.length; c += 1) {
    const [a, b, d] = [3 * c, 3 * next(c), 3 * next(next(c))];
    const [ux, uy, uz] = [p[b]! - p[a]!, p[b + 1]! - p[a + 1]!, p[b + 2]! - p[a + 2]!];
    const [vx, vy, vz] = [p[d]! - p[a]!, p[d + 1]! - p[a + 1]!, p[d + 2]! - p[a + 2]!];
    const [x, y, z] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx];
    out[c] = Math.atan2(Math.sqrt(x * x + y * y + z * z), ux * vx + uy * vy + uz * vz);
  }
  return out;
}

/** Degrees of fold in a bin. */
const BIN = 0.05;
const binOf = (degrees: number): number => Math.min(Math.max(Math.floor(degrees / BIN), 0), Math.ceil(180 / BIN));

/** One half-edge of each edge, sorted into bins by its fold. */
function sortByFold(fold: Float32Array, twin: Int32Array): [Uint32Array, Uint32Array] {
  const bins = new Uint32Array(Math.ceil(180 / BIN) + 3);
  for (let c = 0; c < fold.length; c += 1) if (twin[c]! > c) bins[binOf(fold[c]!) + 1]! += 1;
  for (let i = 1; i < bins.length; i += 1) bins[i]! += bins[i - 1]!;
  const order = new Uint32Array(bins[bins.length - 1]!);
  const slot = bins.slice();
  for (let c = 0; c < fold.length; c += 1) {
    if (twin[c]! <= c) continue;
    const bin = binOf(fold[c]!);
    order[slot[bin]!] = c;
    slot[bin]! += 1;
  }
  return [order, bins];
}
