import { invalidate } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { Box3, Group, Matrix4, MeshLambertMaterial, Sphere } from "three";

import { type LoadedLevel, type LoadedModel, useModel } from "./model";

export interface SourceParts {
  /** Address of the source as it came, part by part. */
  url: string | null;
  /** Row-major matrix from the source's units and axes to the shipped prop, in metres. */
  matrix: number[] | undefined;
}

/** The parts of a source by their number, under the matrix that places them. */
function useSourceParts({ url, matrix }: SourceParts) {
  const { model } = useModel(url);
  return useMemo(() => {
    if (!model || matrix?.length !== 16) return null;
    const placed = new Matrix4().set(...(matrix as Parameters<Matrix4["set"]>));
    const parts = new Map<number, LoadedLevel>();
    for (const level of model.levels) {
      level.object.matrixAutoUpdate = false;
      level.object.matrix.copy(placed);
      level.object.updateMatrixWorld(true);
      parts.set(Number(level.name.replace("part_", "")), level);
    }
    return { model, parts };
  }, [model, matrix]);
}

const GHOST = new MeshLambertMaterial({ color: "#8a94a8", transparent: true, opacity: 0.16, depthWrite: false });
const CHOSEN = new MeshLambertMaterial({ color: "#a81e6e", emissive: "#a81e6e", emissiveIntensity: 0.25 });

/** The whole source as one level: parts that stay behind are ghosts, the one in hand is marked. */
export function useSourceModel(source: SourceParts, ships: boolean[], selected: number | null): LoadedModel | null {
  const loaded = useSourceParts(source);
  const composed = useMemo(
    () => (loaded ? compose("source", [...loaded.parts.values()], loaded.model) : null),
    [loaded],
  );
  useEffect(() => {
    if (!loaded) return;
    for (const [number, part] of loaded.parts) {
      for (const entry of part.meshes) {
        entry.shown = number === selected ? CHOSEN : ships[number] ? undefined : GHOST;
        entry.mesh.material = entry.shown ?? entry.own;
      }
    }
    invalidate();
  }, [loaded, ships, selected]);
  return composed;
}

/** The prop before its cleanup and LOD0 after it, as two levels of one model. */
export function useBeforeAndAfter(source: SourceParts, own: number[], after: LoadedModel | null): LoadedModel | null {
  const loaded = useSourceParts(source);
  return useMemo(() => {
    const last = after?.levels[0];
    if (!loaded || !after || !last) return null;
    const mine = own.flatMap((number) => loaded.parts.get(number) ?? []);
    for (const part of mine) {
      for (const entry of part.meshes) {
        // The same material as after, so that only the shape differs.
        const same = last.meshes.find(
          ({ own: material }) =>
            !Array.isArray(material) && !Array.isArray(entry.own) && material.name === entry.own.name,
        );
        entry.shown = same && !Array.isArray(same.own) ? same.own : undefined;
        entry.mesh.material = entry.shown ?? entry.own;
      }
    }
    const before = compose("before", mine, loaded.model).levels[0];
    return before ? { ...after, levels: [before, last] } : null;
  }, [loaded, own, after]);
}

function compose(name: string, parts: LoadedLevel[], model: LoadedModel): LoadedModel {
  const object = new Group();
  object.name = name;
  for (const part of parts) object.add(part.object);
  object.updateMatrixWorld(true);
  const bounds = new Box3().setFromObject(object);
  return {
    proxies: [],
    url: model.url,
    materialNames: model.materialNames,
    levels: [{ name, object, meshes: parts.flatMap(({ meshes }) => meshes) }],
    bounds,
    sphere: bounds.getBoundingSphere(new Sphere()),
  };
}
