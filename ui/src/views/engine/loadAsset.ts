import {
  Box3,
  type Material,
  MathUtils,
  Mesh,
  type MeshStandardMaterial,
  type Object3D,
  RED_GREEN_RGTC2_Format,
  Sphere,
  type Texture,
  Vector3,
} from "three";
import { GLTFLoader, type GLTFParser } from "three/addons/loaders/GLTFLoader.js";

import type { SeenProp } from "../../api/client";
import { loadBlocks } from "../../viewport/useGpuTexture";

/** An asset as it is drawn and bumped into: its levels in their order, and its proxies. */
export interface WalkAsset {
  levels: { object: Object3D; number: number | null }[];
  proxies: Mesh[];
  sphere: Sphere;
}

const UP = new Vector3(0, 1, 0);
const DDS = "MSFT_texture_dds";

interface TextureRow {
  source?: number;
  sampler?: number;
  extensions?: Record<string, { source: number }>;
}

/** Takes the blocks that lie beside a GLB, where the graphics card knows them, and the plain image elsewhere. */
function ddsTextures(parser: GLTFParser) {
  const document = parser.json as { textures?: TextureRow[]; images?: { uri?: string }[] };
  return {
    name: DDS,
    loadTexture(index: number): Promise<Texture> | null {
      const row = document.textures?.[index];
      const source = row?.extensions?.[DDS]?.source;
      const uri = source === undefined ? undefined : document.images?.[source]?.uri;
      if (!row || uri === undefined) return null;
      return loadBlocks(new URL(uri, new URL(parser.options.path, location.href)).href).then(
        (texture) => texture ?? parser.loadTextureImage(index, row.source ?? 0, parser.textureLoader),
      ) as Promise<Texture>;
    },
  };
}

/** The name that a node has in its file; the loader keeps it where it had to change it. */
const nameOf = (object: Object3D): string => String((object.userData as { name?: string }).name ?? object.name);

/** Loads a GLB or glTF and takes it apart as the rehearsal saw it. */
export async function loadAsset(address: string, seen: SeenProp): Promise<WalkAsset> {
  const loader = new GLTFLoader();
  loader.register(ddsTextures);
  const { scene } = await loader.loadAsync(address);
  const nodes = new Map<string, Object3D>();
  scene.traverse((object) => {
    if (!nodes.has(nameOf(object))) nodes.set(nameOf(object), object);
  });
  const proxies = seen.proxies.flatMap(({ name }) => {
    const found = nodes.get(name);
    return found instanceof Mesh ? [found as Mesh] : [];
  });
  const levels = seen.levels.flatMap(({ name, number }) => {
    const object = nodes.get(name);
    return object ? [{ object, number }] : [];
  });
  // Levels may lie below each other: apart, one can be hidden without the others.
  for (const { object } of [...levels].reverse()) object.removeFromParent();
  for (const proxy of proxies) proxy.removeFromParent();
  for (const { object } of levels) {
    object.traverse((child) => {
      if (child instanceof Mesh) drawAsEngines(child.material as Material);
    });
  }
  const bounds = new Box3();
  if (levels[0]) bounds.setFromObject(levels[0].object);
  return { levels, proxies, sphere: bounds.getBoundingSphere(new Sphere()) };
}

/** Normals of two channels get their third, as engines compute it. */
function drawAsEngines(material: Material): void {
  const { normalMap } = material as MeshStandardMaterial;
  const format: number | undefined = normalMap?.format;
  if (format !== RED_GREEN_RGTC2_Format) return;
  material.onBeforeCompile = (shader) => {
    shader.fragmentShader = shader.fragmentShader.replace(
      "#include <normal_fragment_maps>",
      `#ifdef USE_NORMALMAP_TANGENTSPACE
        vec3 mapN = texture2D( normalMap, vNormalMapUv ).xyz * 2.0 - 1.0;
        mapN.z = sqrt( max( 0.0, 1.0 - dot( mapN.xy, mapN.xy ) ) );
        mapN.xy *= normalScale;
        normal = normalize( tbn * mapN );
      #endif`,
    );
  };
}

/** The material that a mesh came with, whichever it wears. */
export function ownMaterial(mesh: Mesh): Material {
  const kept = mesh.userData as { own?: Material };
  kept.own ??= mesh.material as Material;
  return kept.own;
}

/** Where the middle of an asset is, of one that stands turned about its pivot. */
export function middleOf({ sphere }: WalkAsset, { x, z, turn }: { x: number; z: number; turn: number }): Vector3 {
  return sphere.center
    .clone()
    .applyAxisAngle(UP, MathUtils.degToRad(turn))
    .add(new Vector3(x, 0, z));
}

/** Gives the graphics memory of an asset back. */
export function disposeAsset({ levels, proxies }: WalkAsset): void {
  for (const { geometry } of proxies) geometry.dispose();
  for (const { object } of levels) {
    object.traverse((child) => {
      if (!(child instanceof Mesh)) return;
      (child as Mesh).geometry.dispose();
      // While levels are told apart by colour a mesh wears a material of all assets.
      const material = ownMaterial(child as Mesh) as MeshStandardMaterial;
      for (const value of Object.values(material)) {
        if (value && typeof value === "object" && "isTexture" in value) (value as Texture).dispose();
      }
      material.dispose();
    });
  }
}
