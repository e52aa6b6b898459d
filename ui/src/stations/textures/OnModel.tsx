import { useEffect, useLayoutEffect, useState } from "react";
import { type MeshStandardMaterial, ShaderChunk } from "three";

import { type DrawMode, type LoadedModel } from "../../viewport/model";
import { Redrawn } from "../../viewport/Redrawn";
import { type GpuTexture, loadGpuTexture } from "../../viewport/useGpuTexture";
import { likeSource, MAPS } from "./sourceTextures";

/** Normals that a codec holds as two channels: the third is found as an engine's shader finds it. */
const TWO_CHANNELS = `
  vec3 mapN = vec3( texture2D( normalMap, vNormalMapUv ).xy * 2.0 - 1.0, 0.0 );
  mapN.z = sqrt( max( 1.0 - dot( mapN.xy, mapN.xy ), 0.0 ) );
`;
const THREE_CHANNELS = "vec3 mapN = texture2D( normalMap, vNormalMapUv ).xyz * 2.0 - 1.0;";

interface OnModelProps {
  model: LoadedModel;
  mode: DrawMode;
  /** Addresses of the GPU textures by the names of the images that they were made of. */
  addresses: Map<string, string>;
}

/** Draws the model's own materials with the compressed textures in the place of theirs. */
export function OnModel({ model, mode, addresses }: OnModelProps) {
  const loaded = useGpuTextures(addresses);
  const drawn = mode === "shaded" || mode === "wire" ? loaded : null;
  // In the layout's turn, so that the materials are there when the model is drawn again.
  useLayoutEffect(() => {
    if (!drawn) return;
    const meshes = model.levels.flatMap((level) => level.meshes);
    for (const one of meshes) one.shown = compressed(one.own as MeshStandardMaterial, drawn);
    return () => {
      for (const one of meshes) {
        one.shown?.dispose();
        one.shown = undefined;
      }
    };
  }, [drawn, model]);
  return <Redrawn model={model} mode={mode} stamp={drawn} />;
}

/** The GPU textures at all addresses, by the same names; null until the last has come, or where one does not. */
function useGpuTextures(addresses: Map<string, string>): Map<string, GpuTexture> | null {
  const [loaded, setLoaded] = useState<Map<string, GpuTexture> | null>(null);
  useEffect(() => {
    let isCurrent = true;
    const made: GpuTexture[] = [];
    const all = [...addresses].map(async ([name, address]) => {
      const one = await loadGpuTexture(address);
      if (isCurrent) made.push(one);
      else one.texture.dispose();
      return [name, one] as const;
    });
    Promise.all(all).then(
      (pairs) => isCurrent && setLoaded(new Map(pairs)),
      () => isCurrent && setLoaded(null),
    );
    return () => {
      isCurrent = false;
      setLoaded(null);
      for (const { texture } of made) texture.dispose();
    };
  }, [addresses]);
  return loaded;
}

/** A material whose maps are the compressed ones. */
function compressed(own: MeshStandardMaterial, loaded: Map<string, GpuTexture>): MeshStandardMaterial {
  const material = own.clone();
  for (const key of MAPS) {
    const source = own[key];
    const found = source && loaded.get(source.name);
    if (!found) continue;
    const texture = likeSource(found.texture, source);
    texture.colorSpace = source.colorSpace;
    material[key] = texture;
    if (key === "normalMap" && found.codec === "bc5") {
      material.onBeforeCompile = (shader) => {
        shader.fragmentShader = shader.fragmentShader.replace(
          "#include <normal_fragment_maps>",
          ShaderChunk.normal_fragment_maps.replace(THREE_CHANNELS, TWO_CHANNELS),
        );
      };
      material.customProgramCacheKey = () => "two-channels";
    }
  }
  return material;
}
