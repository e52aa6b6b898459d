import {
  CompressedTexture,
  type CompressedPixelFormat,
  type CompressedTextureMipmap,
  DataTexture,
  LinearFilter,
  LinearMipmapLinearFilter,
  NoColorSpace,
  RED_GREEN_RGTC2_Format,
  RED_RGTC1_Format,
  RGBA_BPTC_Format,
  RGBA_S3TC_DXT1_Format,
  RGBA_S3TC_DXT5_Format,
  type Texture,
} from "three";

export type BlockCodec = "bc1" | "bc3" | "bc4" | "bc5" | "bc7" | "rgba8";

/** What a DDS holds: its levels, the whole first. */
export interface Dds {
  codec: BlockCodec;
  width: number;
  height: number;
  levels: CompressedTextureMipmap[];
}

const MAGIC = 0x20534444;
const HEADER = 128;
const DX10 = 20;
const BLOCK_BYTES: Record<BlockCodec, number> = { bc1: 8, bc3: 16, bc4: 8, bc5: 16, bc7: 16, rgba8: 4 };
const FOURCC: Record<string, BlockCodec> = { DXT1: "bc1", DXT5: "bc3", ATI1: "bc4", ATI2: "bc5" };
/** Numbers of DXGI formats, linear and sRGB. */
const DXGI: Record<number, BlockCodec> = {
  28: "rgba8",
  29: "rgba8",
  71: "bc1",
  72: "bc1",
  77: "bc3",
  78: "bc3",
  80: "bc4",
  83: "bc5",
  98: "bc7",
  99: "bc7",
};
const FORMATS: Record<Exclude<BlockCodec, "rgba8">, CompressedPixelFormat> = {
  bc1: RGBA_S3TC_DXT1_Format,
  bc3: RGBA_S3TC_DXT5_Format,
  bc4: RED_RGTC1_Format,
  bc5: RED_GREEN_RGTC2_Format,
  bc7: RGBA_BPTC_Format,
};
/** What a browser must know to take a codec. */
export const EXTENSIONS: Record<BlockCodec, string | null> = {
  bc1: "WEBGL_compressed_texture_s3tc",
  bc3: "WEBGL_compressed_texture_s3tc",
  bc4: "EXT_texture_compression_rgtc",
  bc5: "EXT_texture_compression_rgtc",
  bc7: "EXT_texture_compression_bptc",
  rgba8: null,
};

/** Reads a two-dimensional DDS; throws where it is none. */
export function readDds(data: ArrayBuffer): Dds {
  const words = new DataView(data);
  if (data.byteLength < HEADER || words.getUint32(0, true) !== MAGIC) throw new Error("this is no DDS file");
  const [height, width, mips] = [12, 16, 28].map((at) => words.getUint32(at, true)) as [number, number, number];
  const name = String.fromCharCode(...new Uint8Array(data, 84, 4));
  const isDx10 = name === "DX10";
  const codec = isDx10 ? DXGI[words.getUint32(HEADER, true)] : (FOURCC[name] ?? "rgba8");
  if (!codec) throw new Error("this DDS holds a format that is not shown");
  let at = HEADER + (isDx10 ? DX10 : 0);
  const levels: CompressedTextureMipmap[] = [];
  for (let k = 0; k < Math.max(mips, 1); k += 1) {
    const [w, h] = [Math.max(width >> k, 1), Math.max(height >> k, 1)];
    const size = codec === "rgba8" ? w * h * 4 : Math.ceil(w / 4) * Math.ceil(h / 4) * BLOCK_BYTES[codec];
    if (at + size > data.byteLength) throw new Error("this DDS is cut off");
    levels.push({ data: new Uint8Array(data, at, size), width: w, height: h });
    at += size;
  }
  return { codec, width, height, levels };
}

/** The texture as the GPU takes it: the blocks themselves, read as plain numbers. */
export function textureOf({ codec, width, height, levels }: Dds): Texture {
  const texture =
    codec === "rgba8"
      ? Object.assign(new DataTexture(levels[0]?.data as Uint8Array<ArrayBuffer>, width, height), { mipmaps: levels })
      : new CompressedTexture(levels, width, height, FORMATS[codec]);
  texture.colorSpace = NoColorSpace;
  texture.magFilter = LinearFilter;
  texture.minFilter = levels.length > 1 ? LinearMipmapLinearFilter : LinearFilter;
  texture.generateMipmaps = false;
  texture.needsUpdate = true;
  return texture;
}
