import { readFileSync, writeFileSync } from "node:fs";

import {
  parseDescent,
  Replay,
  stepOfTriangles,
} from "../../ui/src/surface/descent";

/** Replays a descent to given steps, in any order, and writes which triangles it draws; with the time a step takes. */
const folder = process.argv[2]!;
const bytes = readFileSync(`${folder}/descent.bin`);
const descent = parseDescent(
  bytes.buffer.slice(
    bytes.byteOffset,
    bytes.byteOffset + bytes.byteLength,
  ) as ArrayBuffer,
);
const steps = JSON.parse(
  readFileSync(`${folder}/steps.json`, "utf8"),
) as number[];
const replay = new Replay(descent);
const levels = steps.map((step) => {
  replay.to(step);
  replay.warm();
  const drawn = descent.groups.map(({ first, material }, g) => ({
    material,
    corners: Array.from(
      replay.index.subarray(3 * first, 3 * (first + replay.counts[g]!)),
    ),
  }));
  const used = new Set(drawn.flatMap(({ corners }) => corners));
  return {
    drawn,
    hottest: Math.max(...replay.heat),
    coldest: Math.min(...replay.heat),
    vertices: used.size,
  };
});
writeFileSync(
  `${folder}/levels.json`,
  JSON.stringify({ levels, found: stepOfTriangles(descent, 100) }),
);
