import {
  LinearFilter,
  LinearMipmapLinearFilter,
  type MeshStandardMaterial,
  NearestFilter,
  NoColorSpace,
  Texture,
} from "three";

import type { LoadedModel } from "../../viewport/model";

/** The maps of a material, by the names that three.js gives them. */
export const MAPS = ["map", "normalMap", "roughnessMap", "metalnessMap", "aoMap", "emissiveMap"] as const;

/** An image of the model by its name, as plain numbers; null where the model does not use it. */
export function sourceTexture(model: LoadedModel | null, name: string): Texture | null {
  const found = model?.levels
    .flatMap(({ meshes }) => meshes.map(({ own }) => own as MeshStandardMaterial))
    .flatMap((material) => MAPS.map((key) => material[key]))
    .find((texture) => texture?.name === name);
  // What is there as a GPU texture alone has no name in the file.
  if (!found || !name) return null;
  const plain = new Texture(found.image as HTMLImageElement);
  plain.flipY = false;
  plain.colorSpace = NoColorSpace;
  plain.magFilter = NearestFilter;
  plain.minFilter = LinearMipmapLinearFilter;
  plain.generateMipmaps = true;
  plain.needsUpdate = true;
  return plain;
}

/** A result that lies over another on the model wraps and filters as that does. */
export function likeSource(result: Texture, source: Texture): Texture {
  result.wrapS = source.wrapS;
  result.wrapT = source.wrapT;
  result.channel = source.channel;
  result.repeat.copy(source.repeat);
  result.offset.copy(source.offset);
  result.rotation = source.rotation;
  result.magFilter = LinearFilter;
  return result;
}
