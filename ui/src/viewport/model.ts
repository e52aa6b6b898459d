import { useCallback, useEffect, useState } from "react";
import {
  Box3,
  type BufferGeometry,
  type Material,
  Mesh,
  MeshBasicMaterial,
  MeshLambertMaterial,
  type Object3D,
  Sphere,
  Texture,
} from "three";
import { GLTFLoader } from "three/addons/loaders/GLTFLoader.js";

import { APART } from "../surface/palette";
import { STUDIES } from "./studies";

export type DrawMode = "shaded" | "wire" | "material" | "stripes" | "slant" | "sides";
export const DRAW_MODES: { value: DrawMode; label: string; hint: string }[] = [
  { value: "shaded", label: "Shaded", hint: "surfaces in their own materials" },
  { value: "wire", label: "Wire", hint: "triangles over the shading" },
  { value: "material", label: "Materials", hint: "one flat colour a material" },
  {
    value: "stripes",
    label: "Stripes",
    hint: "a striped sky mirrored in the surface: breaks in the shading show as kinks",
  },
  { value: "slant", label: "Slant", hint: "angle between a face and its shading" },
  { value: "sides", label: "Sides", hint: "fronts plain, backs hatched: what an engine would not draw" },
];

/** One level of the shipped chain, as the loader gave it. */
export interface LoadedLevel {
  name: string;
  object: Object3D;
  /** `shown` takes the place of a mesh's own material, to mark it or to make a ghost of it. */
  meshes: { mesh: Mesh; own: Material | Material[]; flat: Material; wire: Mesh; shown?: Material | undefined }[];
}

/** A chain read from GLB bytes. */
export interface LoadedModel {
  url: string;
  levels: LoadedLevel[];
  /** Collision, as the file says of nodes that it is. */
  proxies: Mesh[];
  materialNames: string[];
  bounds: Box3;
  sphere: Sphere;
}

/** Reads the chain of a GLB: one root, below it a mesh node a level, in their order. */
async function loadModel(url: string): Promise<LoadedModel> {
  const gltf = await new GLTFLoader().loadAsync(url);
  const root = gltf.scene.children[0];
  if (!root) throw new Error("the model holds nothing to draw");
  const names: string[] = [];
  const wireMaterial = new MeshBasicMaterial({
    color: "#14233c",
    wireframe: true,
    transparent: true,
    opacity: 0.2,
    depthWrite: false,
  });
  const proxies = root.children.filter(
    (child): child is Mesh => child instanceof Mesh && "collision" in child.userData,
  );
  const levels = root.children
    .filter((child) => !("collision" in child.userData))
    .map((object) => {
      const meshes: LoadedLevel["meshes"] = [];
      object.traverse((child) => {
        if (!(child instanceof Mesh)) return;
        const own = child.material as Material;
        if (!names.includes(own.name)) names.push(own.name);
        own.polygonOffset = true;
        own.polygonOffsetFactor = 1;
        own.polygonOffsetUnits = 1;
        const color = APART[names.indexOf(own.name) % APART.length];
        const flat = new MeshLambertMaterial({
          color,
          emissive: color,
          emissiveIntensity: 0.3,
          toneMapped: false,
          polygonOffset: true,
          polygonOffsetFactor: 1,
          polygonOffsetUnits: 1,
        });
        const wire = new Mesh(child.geometry as BufferGeometry, wireMaterial);
        wire.visible = false;
        wire.renderOrder = 2;
        meshes.push({ mesh: child, own, flat, wire });
      });
      for (const { mesh, wire } of meshes) mesh.add(wire);
      return { name: object.name, object, meshes };
    });
  const first = levels[0];
  if (!first) throw new Error("the model holds no level");
  const bounds = new Box3().setFromObject(first.object);
  return { url, levels, proxies, materialNames: names, bounds, sphere: bounds.getBoundingSphere(new Sphere()) };
}

/** Draw a model's surfaces in another way. */
export function applyMode(model: LoadedModel, mode: DrawMode): void {
  for (const level of model.levels) {
    for (const { mesh, own, flat, wire, shown } of level.meshes) {
      mesh.material =
        shown ?? (mode === "material" ? flat : mode === "shaded" || mode === "wire" ? own : STUDIES[mode]);
      wire.visible = mode === "wire";
    }
  }
}

/** Give the graphics memory of a model back. */
function disposeModel(model: LoadedModel): void {
  for (const { geometry } of model.proxies) geometry.dispose();
  for (const level of model.levels) {
    for (const { mesh, own, flat } of level.meshes) {
      (mesh.geometry as BufferGeometry).dispose();
      flat.dispose();
      for (const material of Array.isArray(own) ? own : [own]) {
        for (const value of Object.values(material)) if (value instanceof Texture) value.dispose();
        material.dispose();
      }
    }
  }
}

interface ModelState {
  model: LoadedModel | null;
  loading: boolean;
  error: string | null;
}

const NOTHING: ModelState = { model: null, loading: false, error: null };

/** The model at an address; while another loads the last one stays in sight. `retry` loads it again. */
export function useModel(url: string | null): ModelState & { retry: () => void } {
  const [state, setState] = useState<ModelState>(NOTHING);
  const [attempt, setAttempt] = useState(0);
  useEffect(() => {
    if (!url) return;
    let isCurrent = true;
    setState((old) => ({ ...old, loading: true, error: null }));
    loadModel(url).then(
      (model) => {
        if (!isCurrent) return disposeModel(model);
        setState((old) => {
          const before = old.model;
          // The canvas may still draw the old one in this frame.
          if (before) setTimeout(() => disposeModel(before), 500);
          return { model, loading: false, error: null };
        });
      },
      (error: unknown) => {
        if (isCurrent)
          setState((old) => ({ ...old, loading: false, error: error instanceof Error ? error.message : "unknown" }));
      },
    );
    return () => {
      isCurrent = false;
    };
  }, [url, attempt]);
  const retry = useCallback(() => setAttempt((old) => old + 1), []);
  return { ...(url ? state : NOTHING), retry };
}
