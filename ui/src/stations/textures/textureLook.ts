import type { Shows } from "./textureShader";

/** How a texture is looked at. */
export interface TextureLook {
  shows: Shows;
  level: number;
  /** Share of the view's width at which source and result meet. */
  split: number;
  /** Steps of 8 bits at the end of the error's scale; null where the pixels themselves are shown. */
  error: number | null;
}

/** As far as there is anything to look at: mips end where a smaller result does, and errors where nothing is compared. */
export function shownLook(look: TextureLook, levels: number, isCompared: boolean): TextureLook {
  return { ...look, level: Math.min(look.level, levels - 1), error: isCompared ? look.error : null };
}
