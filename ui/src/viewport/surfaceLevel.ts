import {
  BufferAttribute,
  BufferGeometry,
  Group,
  type InterleavedBufferAttribute,
  type Material,
  Mesh,
  MeshBasicMaterial,
} from "three";

import type { Sheet } from "../surface/sheet";
import { makeSurface, type Surface } from "../surface/surface";
import type { LoadedLevel, LoadedModel } from "./model";

/** A level whose triangles own their corners, over arrays that can be changed in place. */
export interface SurfaceLevel {
  surface: Surface;
  level: LoadedLevel;
  /** What the level draws as normals; `update` sends it to the graphics card. */
  normals: Float32Array;
  update: () => void;
}

type Attribute = BufferAttribute | InterleavedBufferAttribute;
const WIRE = new MeshBasicMaterial({
  color: "#14233c",
  wireframe: true,
  transparent: true,
  opacity: 0.2,
  depthWrite: false,
});

/** LOD0 of a model taken apart into corners, in the order in which the sheet names them. */
export function makeSurfaceLevel(model: LoadedModel, sheet: Sheet): SurfaceLevel {
  const first = model.levels[0];
  if (!first) throw new Error("the model holds no level");
  const positions = new Float32Array(9 * sheet.triangles);
  const normals = new Float32Array(9 * sheet.triangles);
  const material = new Uint16Array(sheet.triangles);
  const pieces: { source: LoadedLevel["meshes"][number]; from: number; to: number }[] = [];
  let at = 0;
  for (const source of first.meshes) {
    const geometry = source.mesh.geometry as BufferGeometry;
    const index = geometry.getIndex();
    const count = index ? index.count : geometry.getAttribute("position").count;
    if (at + count > 3 * sheet.triangles) throw new Error("the model and what is known of it do not belong together");
    gather(geometry.getAttribute("position"), index, count, positions.subarray(3 * at));
    if (geometry.getAttribute("normal"))
      gather(geometry.getAttribute("normal"), index, count, normals.subarray(3 * at));
    const number = model.materialNames.indexOf((source.own as Material).name);
    material.fill(number, at / 3, (at + count) / 3);
    pieces.push({ source, from: at, to: at + count });
    at += count;
  }
  const surface = makeSurface(sheet, positions, normals, material);
  const live = normals.slice();
  const corners = Uint32Array.from({ length: 3 * sheet.triangles }, (_, c) => c);
  const { level, attributes } = assemble(first.name, pieces, positions, live, corners);
  return {
    surface,
    level,
    normals: live,
    update: () => attributes.forEach((attribute) => (attribute.needsUpdate = true)),
  };
}

/** The same surface with its polygons cut as an engine's fans would; null where they were cut that way. */
export function makeFanLevel({ surface, level }: SurfaceLevel): LoadedLevel | null {
  const { fan } = surface.sheet;
  if (!fan) return null;
  const pick = (values: Float32Array): Float32Array => {
    const out = new Float32Array(values.length);
    for (let c = 0; c < fan.length; c += 1) for (let k = 0; k < 3; k += 1) out[3 * c + k] = values[3 * fan[c]! + k]!;
    return out;
  };
  let at = 0;
  const pieces = level.meshes.map((source) => {
    const from = at;
    at += (source.mesh.geometry as BufferGeometry).getAttribute("position").count;
    return { source, from, to: at };
  });
  return assemble("fan", pieces, pick(surface.positions), pick(surface.normals), fan).level;
}

function assemble(
  name: string,
  pieces: { source: LoadedLevel["meshes"][number]; from: number; to: number }[],
  positions: Float32Array,
  normals: Float32Array,
  corners: Uint32Array,
): { level: LoadedLevel; attributes: BufferAttribute[] } {
  const object = new Group();
  object.name = name;
  const attributes: BufferAttribute[] = [];
  const meshes = pieces.map(({ source, from, to }) => {
    const own = source.mesh.geometry as BufferGeometry;
    const geometry = new BufferGeometry();
    geometry.setAttribute("position", new BufferAttribute(positions.subarray(3 * from, 3 * to), 3));
    const normal = new BufferAttribute(normals.subarray(3 * from, 3 * to), 3);
    attributes.push(normal);
    geometry.setAttribute("normal", normal);
    for (const key of ["uv", "uv1", "color", "tangent"]) {
      const attribute = own.getAttribute(key) as Attribute | undefined;
      if (!attribute) continue;
      const out = new Float32Array((to - from) * attribute.itemSize);
      const index = own.getIndex();
      for (let c = from; c < to; c += 1) {
        const place = corners[c]! - from;
        const v = index ? index.getX(place) : place;
        for (let k = 0; k < attribute.itemSize; k += 1)
          out[(c - from) * attribute.itemSize + k] = attribute.getComponent(v, k);
      }
      geometry.setAttribute(key, new BufferAttribute(out, attribute.itemSize));
    }
    const mesh = new Mesh(geometry, source.own);
    mesh.userData.first = from / 3;
    const wire = new Mesh(geometry, WIRE);
    wire.visible = false;
    wire.renderOrder = 2;
    mesh.add(wire);
    object.add(mesh);
    return { mesh, own: source.own, flat: source.flat, wire };
  });
  object.updateMatrixWorld(true);
  return { level: { name, object, meshes }, attributes };
}

function gather(attribute: Attribute, index: BufferAttribute | null, count: number, out: Float32Array): void {
  for (let c = 0; c < count; c += 1) {
    const v = index ? index.getX(c) : c;
    for (let k = 0; k < 3; k += 1) out[3 * c + k] = attribute.getComponent(v, k);
  }
}
