import {
  BufferAttribute,
  BufferGeometry,
  Group,
  type Material,
  Mesh,
  MeshBasicMaterial,
  MeshLambertMaterial,
} from "three";

import { Replay, type Descent } from "../surface/descent";
import type { LoadedLevel, LoadedModel } from "./model";

/** A level that is replayed from the descent while a slider moves. */
export interface DescentLevel {
  replay: Replay;
  level: LoadedLevel;
  /** Draws the level after `step` collapses. */
  show: (step: number) => void;
  /** Draws how far the surface is off in place of its materials. */
  setHeat: (on: boolean) => void;
}

/** From where the surface lies on LOD0 to where it is furthest off. */
export const HEAT = ["#f3f5f3", "#edcd7c", "#bd3190"] as const;
const STOPS = HEAT.map((color) => [1, 3, 5].map((at) => Number.parseInt(color.slice(at, at + 2), 16)));
const WIRE = new MeshBasicMaterial({
  color: "#14233c",
  wireframe: true,
  transparent: true,
  opacity: 0.2,
  depthWrite: false,
});

/** The level with the materials of the model's LOD0; its geometry has every node there ever is. */
export function makeDescentLevel(descent: Descent, model: LoadedModel): DescentLevel {
  const replay = new Replay(descent);
  const object = new Group();
  const colors = new Uint8Array(3 * descent.parent.length).fill(243);
  const shared: Record<string, BufferAttribute> = {
    position: new BufferAttribute(descent.place, 3),
    color: new BufferAttribute(colors, 3, true),
  };
  if (descent.normal) shared.normal = new BufferAttribute(descent.normal, 3);
  if (descent.uv) shared.uv = new BufferAttribute(descent.uv, 2);
  const hot = new MeshLambertMaterial({
    vertexColors: true,
    emissive: "#ffffff",
    emissiveIntensity: 0.12,
    toneMapped: false,
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
    flatShading: !descent.normal,
  });
  const first = model.levels[0]!;
  let isHot = false;
  const meshes = descent.groups.map(({ material, first: from, last }) => {
    const like = first.meshes.find(({ own }) => (own as Material).name === material) ?? first.meshes[0]!;
    const geometry = new BufferGeometry();
    for (const [name, attribute] of Object.entries(shared)) geometry.setAttribute(name, attribute);
    geometry.setIndex(new BufferAttribute(replay.index.subarray(3 * from, 3 * last), 1));
    geometry.boundingSphere = model.sphere.clone();
    // Its own material, without the colours that the heat needs.
    const own = (like.own as Material).clone() as MeshLambertMaterial;
    own.vertexColors = false;
    // What is faceted has no normals of its own.
    own.flatShading = !descent.normal;
    const mesh = new Mesh(geometry, own);
    mesh.frustumCulled = false;
    const wire = new Mesh(geometry, WIRE);
    wire.frustumCulled = false;
    wire.visible = false;
    wire.renderOrder = 2;
    mesh.add(wire);
    object.add(mesh);
    return { mesh, own, flat: like.flat, wire };
  });
  const level: LoadedLevel = { name: "", object, meshes };
  const paint = () => {
    replay.warm();
    const there = descent.nodesAt[replay.step]!;
    for (let i = 0; i < there; i += 1) {
      const at = Math.sqrt(replay.heat[i]!) * 2;
      const low = STOPS[at < 1 ? 0 : 1]!;
      const high = STOPS[at < 1 ? 1 : 2]!;
      const share = at < 1 ? at : at - 1;
      for (let k = 0; k < 3; k += 1) colors[3 * i + k] = low[k]! + share * (high[k]! - low[k]!);
    }
    shared.color!.needsUpdate = true;
  };
  const show = (step: number) => {
    replay.to(step);
    meshes.forEach(({ mesh }, g) => {
      const geometry = mesh.geometry as BufferGeometry;
      const index = geometry.getIndex()!;
      index.clearUpdateRanges();
      index.addUpdateRange(0, 3 * replay.counts[g]!);
      index.needsUpdate = true;
      geometry.setDrawRange(0, 3 * replay.counts[g]!);
    });
    if (isHot) paint();
  };
  show(0);
  return {
    replay,
    level,
    show,
    setHeat: (on) => {
      isHot = on;
      level.meshes.forEach((entry) => (entry.shown = on ? hot : undefined));
      if (on) paint();
    },
  };
}
