import { useEffect, useState } from "react";
import { NoColorSpace, RepeatWrapping, type Texture, TextureLoader } from "three";

import { type BlockCodec, EXTENSIONS, readDds, textureOf } from "./dds";

export interface GpuTexture {
  texture: Texture;
  codec: BlockCodec;
  levels: number;
  /** The browser cannot take these blocks: the server decoded them. */
  isDecoded: boolean;
}

interface GpuTextureState {
  found: GpuTexture | null;
  error: string | null;
}

const NONE: GpuTextureState = { found: null, error: null };
let known: Set<string> | null = null;

/** Whether this browser's GPU takes a codec. */
function takes(codec: BlockCodec): boolean {
  const name = EXTENSIONS[codec];
  if (name === null) return true;
  if (!known) {
    const context = document.createElement("canvas").getContext("webgl2");
    known = new Set(context?.getSupportedExtensions() ?? []);
    context?.getExtension("WEBGL_lose_context")?.loseContext();
  }
  return known.has(name);
}

/** A DDS as the GPU takes it; where the browser does not know its blocks, as the server decodes them. */
export async function loadGpuTexture(address: string): Promise<GpuTexture> {
  const answer = await fetch(address);
  if (!answer.ok) throw new Error("the texture could not be loaded; build the prop again");
  const dds = readDds(await answer.arrayBuffer());
  if (takes(dds.codec))
    return { texture: textureOf(dds), codec: dds.codec, levels: dds.levels.length, isDecoded: false };
  const texture = await new TextureLoader().loadAsync(decodedAddress(address));
  texture.flipY = false;
  texture.colorSpace = NoColorSpace;
  return { texture, codec: dds.codec, levels: 1, isDecoded: true };
}

/** The blocks of a DDS beside a model; null where the graphics card does not know them. */
export async function loadBlocks(address: string): Promise<Texture | null> {
  const answer = await fetch(address);
  if (!answer.ok) return null;
  const dds = readDds(await answer.arrayBuffer());
  if (!takes(dds.codec)) return null;
  const texture = textureOf(dds);
  texture.wrapS = texture.wrapT = RepeatWrapping;
  texture.anisotropy = 4;
  return texture;
}

/** Where the server gives a stored texture as PNG. */
export function decodedAddress(address: string): string {
  return address.replace("/api/files/", "/api/textures/").replace(/\.bin$/, ".png");
}

/** The GPU texture at an address; none while it loads. */
export function useGpuTexture(address: string | null): GpuTextureState {
  const [state, setState] = useState(NONE);
  useEffect(() => {
    setState(NONE);
    if (!address) return;
    let isCurrent = true;
    let made: GpuTexture | null = null;
    loadGpuTexture(address).then(
      (found) => {
        made = found;
        if (isCurrent) setState({ found, error: null });
        else found.texture.dispose();
      },
      (error: unknown) => isCurrent && setState({ found: null, error: error instanceof Error ? error.message : "" }),
    );
    return () => {
      isCurrent = false;
      made?.texture.dispose();
    };
  }, [address]);
  return state;
}
