import type { PropDetail } from "../../api/client";

export type TexturesFacts = NonNullable<PropDetail["facts"]["textures"]>;
export type TextureRow = TexturesFacts["textures"][number];
export type Kind = TextureRow["kind"];
export type Codec = TextureRow["trials"][number]["codec"];

export const KINDS: Record<Kind, string> = {
  color: "colour",
  normal: "normal",
  roughness: "roughness",
  metallic: "metallic",
  occlusion: "occlusion",
  opacity: "opacity",
  height: "height",
  emissive: "emissive",
  mask: "mask",
  packed: "packed",
};
export const BY: Record<TextureRow["by"], string> = {
  slot: "by its material slot",
  name: "by its name",
  content: "by its content",
  choice: "chosen",
};
export const CODECS: Record<Codec, string> = {
  bc1: "BC1",
  bc3: "BC3",
  bc4: "BC4",
  bc5: "BC5",
  bc7: "BC7",
  rgba8: "RGBA8",
};

/** The form in which a texture ships: its codec, or an image, changed or not. */
export function shipsAs({ made, is_changed }: TextureRow): string {
  if (made) return CODECS[made.codec];
  return is_changed ? "image, changed" : "as it came";
}

/** Told where nothing differs. */
const EXACT = 99;

/** How far a result is from its source, in the figure that its kind is judged by. */
export function quality(row: TextureRow): string {
  const { made } = row;
  if (!made) return "–";
  if (made.angle_mean !== null) return `${made.angle_mean.toFixed(2)}° mean, ${(made.angle_p95 ?? 0).toFixed(1)}° p95`;
  const drift = made.coverage === null ? "" : `, coverage ${(100 * made.coverage).toFixed(1)} %`;
  return `${made.psnr.toFixed(1)} dB, SSIM ${made.ssim.toFixed(3)}${drift}`;
}

/** The one figure that its kind is judged by. */
export function shortQuality({ made }: TextureRow): string {
  if (!made) return "–";
  if (made.psnr >= EXACT) return "exact";
  return made.angle_mean === null ? `${made.psnr.toFixed(1)} dB` : `${made.angle_mean.toFixed(2)}°`;
}
