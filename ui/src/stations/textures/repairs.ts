import type { Settings } from "../bench";
import { HEIGHT, type MapChoice, withChoice } from "./mapChoices";
import type { TextureRow } from "./words";

type Textures = Settings["textures"];

interface Repair {
  words: string;
  /** What is decided about the texture that has the fault. */
  choice?: Partial<MapChoice>;
  /** What is decided for all textures. */
  settings?: Partial<Textures>;
}

const LEAVE_ALPHA: Repair = { words: "Leave alpha out", choice: { drop_alpha: true } };
const ONE_CHANNEL: Repair = { words: "Keep one channel", choice: { one_channel: true } };
const RESIZE: Repair = { words: "Resize to powers of two", settings: { sizes: "power-of-two" } };
const REPAIRS: Record<string, Repair> = {
  "opaque-alpha": LEAVE_ALPHA,
  "unused-alpha": LEAVE_ALPHA,
  "invisible-texture": LEAVE_ALPHA,
  "grey-stored-as-color": ONE_CHANNEL,
  "color-stored-as-data": ONE_CHANNEL,
  "normal-map-not-unit": { words: "Make normals unit length", choice: { unit: true } },
  "normal-map-green-down": { words: "Turn green over", choice: { flip_green: true } },
  "height-made-normal": { words: "Take as heights", choice: { height: HEIGHT, kind: "normal" } },
  "normal-map-grey": { words: "Take as heights", choice: { height: HEIGHT, kind: "normal" } },
  "non-power-of-two-texture": RESIZE,
  "not-multiple-of-four": RESIZE,
  "huge-texture": { words: "Halve to 4 096 px", settings: { largest: 4096 } },
};

/** What mends a fault; null where only its source can. */
function repairOf(fault: string): Repair | null {
  return REPAIRS[fault] ?? null;
}

export interface Mended {
  words: string;
  /** How many textures it is for. */
  textures: number;
  change: Partial<Textures>;
}

/** Each repair that some texture needs, with the decision that makes it for all of them at once. */
export function repairsFor(rows: TextureRow[], settings: Textures): Mended[] {
  const needed = new Map<Repair, TextureRow[]>();
  for (const row of rows)
    for (const fault of row.faults) {
      const repair = repairOf(fault);
      const known = (repair && needed.get(repair)) ?? [];
      if (repair && !known.includes(row)) needed.set(repair, [...known, row]);
    }
  return [...needed].map(([{ words, choice, settings: whole }, those]) => ({
    words,
    textures: those.length,
    change: choice
      ? { maps: those.reduce((maps, { image }) => withChoice(maps, image, choice), settings.maps) }
      : (whole ?? {}),
  }));
}
