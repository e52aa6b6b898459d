import type { ReactNode } from "react";

import { bytes, plural } from "../../parts/format";

/** Files that are in sight at once; what comes after them, mostly textures, is unfolded. */
const IN_SIGHT = 3;

interface FoldedProps<File> {
  files: File[];
  draw: (files: File[]) => ReactNode;
}

/** A prop's files, the first ones in sight and the others in one line that opens. */
export function Folded<File extends { bytes: number | null }>({ files, draw }: FoldedProps<File>) {
  const rest = files.slice(IN_SIGHT);
  return (
    <>
      {draw(files.slice(0, IN_SIGHT))}
      {rest.length > 0 && (
        <details>
          <summary className="cursor-pointer text-quiet hover:text-ink">
            {plural(rest.length, "more file")}, {bytes(rest.reduce((sum, file) => sum + (file.bytes ?? 0), 0))}
          </summary>
          {draw(rest)}
        </details>
      )}
    </>
  );
}
