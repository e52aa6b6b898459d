import { useState } from "react";

const FOLDER = "plindro.folder";

/** The folder that shipments were delivered into last, below the server's own. */
export function useFolder(): [string, (folder: string) => void] {
  const [folder, setFolder] = useState(() => localStorage.getItem(FOLDER) ?? "props");
  return [
    folder,
    (next) => {
      localStorage.setItem(FOLDER, next);
      setFolder(next);
    },
  ];
}

/** What becomes of a file in the folder. */
export const CHANGES = {
  made: "new",
  replaced: "replaced",
  same: "left alone, the same already",
  foreign: "not written: another file is there that no delivery wrote",
  unknown: "a file is there; known once this is built",
} as const;
