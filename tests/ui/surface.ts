import { readFileSync, writeFileSync } from "node:fs";

import {
  borderOf,
  edgeAt,
  edgeLoop,
  islandBorders,
  materialBorders,
  patchAt,
} from "../../ui/src/surface/select";
import { LiveShading, type Rule } from "../../ui/src/surface/shading";
import { parseSheet } from "../../ui/src/surface/sheet";
import { makeSurface, next } from "../../ui/src/surface/surface";

/** Runs the view's own arithmetic on a surface and writes what it gives, to be compared with the core's. */
const folder = process.argv[2]!;
const read = (name: string): ArrayBuffer => {
  const bytes = readFileSync(`${folder}/${name}`);
  return bytes.buffer.slice(
    bytes.byteOffset,
    bytes.byteOffset + bytes.byteLength,
  ) as ArrayBuffer;
};
const order = JSON.parse(readFileSync(`${folder}/order.json`, "utf8")) as {
  rule: Rule;
  angles: number[];
  marks: { edges: number[]; as: "hard" | "soft" | "clear" }[];
  loops: { triangle: number; point: [number, number, number] }[];
  patch: { triangle: number; angle: number } | null;
};
const sheet = parseSheet(read("sheet.bin"));
const surface = makeSurface(
  sheet,
  new Float32Array(read("positions.bin")),
  new Float32Array(read("normals.bin")),
  new Uint16Array(read("material.bin")),
);
const live = new LiveShading(surface, order.rule, surface.normals.slice());
const costs = [live.cost];
for (const angle of order.angles) {
  live.setAngle(angle);
  costs.push(live.cost);
}
const promised = [];
for (const { edges, as } of order.marks) {
  const before = live.cost;
  const change = live.costOf(edges, as);
  if (live.cost !== before)
    throw new Error("asking for a cost changed something");
  live.mark(edges, as);
  promised.push([change, live.cost - before]);
}
const ends = (c: number): number[] =>
  [sheet.vertex[c]!, sheet.vertex[next(c)]!].sort((a, b) => a - b);
const loops = order.loops.map(({ triangle, point }) => {
  const edge = edgeAt(surface, triangle, point);
  return edge === null ? [] : edgeLoop(surface, edge).map(ends);
});
const patch = order.patch
  ? patchAt(surface, order.patch.triangle, "angle", order.patch.angle)
  : new Set<number>();
writeFileSync(`${folder}/live.bin`, Buffer.from(live.normals.buffer));
writeFileSync(
  `${folder}/answer.json`,
  JSON.stringify({
    costs,
    promised,
    loops,
    patch: [...patch].sort((a, b) => a - b),
    border: borderOf(surface, patch).map(ends),
    islands: islandBorders(surface).map(ends),
    materials: materialBorders(surface).map(ends),
  }),
);
