import { CLEANUP } from "./cleanup";
import { COLLISION } from "./collision";
import { LEVELS } from "./levels";
import { NAMING } from "./naming";
import { NORMALS } from "./normals";
import { PLACEMENT } from "./placement";
import { SOURCE } from "./source";
import type { Station } from "./station";
import { TEXTURES } from "./textures";
import { TRIANGULATION } from "./triangulation";
import { UVS } from "./uvs";

/** The stations in their order. A new one is a folder beside this file and one line here. */
export const STATIONS: Station[] = [
  SOURCE,
  PLACEMENT,
  CLEANUP,
  TRIANGULATION,
  NORMALS,
  UVS,
  LEVELS,
  TEXTURES,
  COLLISION,
  NAMING,
];
