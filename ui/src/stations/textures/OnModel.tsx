import { useEffect, useMemo, useState } from "react";
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

/** Draws the model with the compressed textures in the place of its own. */
export function OnModel({ model, mode, addresses }: OnModelProps) {
  const [loaded, setLoaded] = useState<Map<string, GpuTexture> | null>(null);
  useEffect(() => {
    let isCurrent = true;
    const all = [...addresses].map(async ([name, address]) => [name, await loadGpuTexture(address)] as const);
    Promise.all(all).then(
      (pairs) => isCurrent && setLoaded(new Map(pairs)),
      () => isCurrent && setLoaded(null),
    );
    return () => {
      isCurrent = false;
    };
  }, [addresses]);
  const stamp = useMemo(() => (loaded ? 1 : 0), [loaded]);
  useEffect(() => {
    if (!loaded) return;
    const meshes = model.levels.flatMap((level) => level.meshes);
    for (const one of meshes) one.shown = compressed(one.own as MeshStandardMaterial, loaded);
    return () => {
      for (const one of meshes) one.shown = undefined;
      for (const { texture } of loaded.values()) texture.dispose();
    };
  }, [loaded, model]);
  return <Redrawn model={model} mode={mode} stamp={stamp} />;
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
