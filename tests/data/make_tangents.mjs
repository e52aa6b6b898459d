// Makes tangents.json from the meshes on standard input: the reference implementation of MikkTSpace, as WebAssembly.
// Run from ui/: node ../tests/data/make_tangents.mjs < meshes.json > ../tests/data/tangents.json
import { createRequire } from "node:module";
import { readFileSync } from "node:fs";

const { generateTangents } = createRequire(process.cwd() + "/")("mikktspace");
const meshes = JSON.parse(readFileSync(0, "utf8"));
for (const mesh of meshes) {
  const [positions, normals, uvs] = [mesh.positions, mesh.normals, mesh.uvs].map((values) => Float32Array.from(values));
  mesh.tangents = Array.from(generateTangents(positions, normals, uvs), (value) => Number(value.toPrecision(8)));
}
process.stdout.write(JSON.stringify(meshes));
