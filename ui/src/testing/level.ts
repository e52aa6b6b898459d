import { BufferAttribute, BufferGeometry, Group, Mesh, MeshBasicMaterial, Box3, Sphere } from "three";

import type { Surface } from "../surface/surface";
import type { LoadedModel } from "../viewport/model";
import type { SurfaceLevel } from "../viewport/surfaceLevel";

/** A loaded model of one level: these triangles, nine numbers each, a mesh for each material. */
export function modelOf(
  pieces: { material: string; positions: number[]; index?: number[]; uv?: number[] }[],
): LoadedModel {
  const object = new Group();
  const meshes = pieces.map(({ material, positions, index, uv }) => {
    const geometry = new BufferGeometry();
    geometry.setAttribute("position", new BufferAttribute(new Float32Array(positions), 3));
    if (uv) geometry.setAttribute("uv", new BufferAttribute(new Float32Array(uv), 2));
    if (index) geometry.setIndex(index);
    geometry.computeVertexNormals();
    const own = new MeshBasicMaterial({ name: material });
    const mesh = new Mesh(geometry, own);
    object.add(mesh);
    return { mesh, own, flat: new MeshBasicMaterial(), wire: new Mesh(geometry, own) };
  });
  const bounds = new Box3().setFromObject(object);
  return {
    url: "/api/files/model.glb",
    proxies: [],
    levels: [{ name: "LOD0", object, meshes }],
    materialNames: pieces.map(({ material }) => material),
    bounds,
    sphere: bounds.getBoundingSphere(new Sphere()),
  };
}

/** A surface as the Bench holds it, with a count of how often it was drawn anew. */
export function levelOf(surface: Surface): SurfaceLevel & { drawn: number } {
  const level = {
    surface,
    level: { name: "LOD0", object: new Group(), meshes: [] },
    normals: surface.normals.slice(),
    drawn: 0,
    update: () => void (level.drawn += 1),
  };
  return level;
}
