import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";

import { keys } from "../../api/queries";
import { type NamedFile, uploadFiles } from "../../api/upload";
import { plural } from "../../parts/format";
import { useNotify } from "../../parts/Toasts";

export interface Upload {
  files: number;
  fraction: number;
  /** Files that were dropped meanwhile, and go next. */
  waiting: number;
}

/** Sending dropped files, one drop after the other: progress, cancel, and a word on what could not be used. */
export function useUpload() {
  const [upload, setUpload] = useState<Upload | null>(null);
  const abort = useRef<(() => void) | null>(null);
  const drops = useRef<NamedFile[][]>([]);
  const queries = useQueryClient();
  const notify = useNotify();
  const sendOne = useCallback(
    async (files: NamedFile[]) => {
      const show = (fraction: number) =>
        setUpload({ files: files.length, fraction, waiting: drops.current.flat().length });
      show(0);
      const { done, cancel } = uploadFiles(files, show);
      abort.current = cancel;
      try {
        const answer = await done;
        const taken = answer.props.length;
        if (taken)
          notify({
            title: `${plural(taken, "prop")} taken`,
            lines: [taken === 1 ? "It is being built now." : "They are being built now."],
          });
        if (answer.refused.length) {
          notify({
            title: "Not everything was taken",
            lines: answer.refused.slice(0, 6).map((file) => `${file.name}: ${file.message}`),
            isProblem: true,
          });
        }
        await queries.invalidateQueries({ queryKey: keys.props });
      } catch (error) {
        notify({ title: error instanceof Error ? error.message : "the upload failed", isProblem: true });
      }
    },
    [notify, queries],
  );
  const send = useCallback(
    async (files: NamedFile[]) => {
      if (!files.length) return;
      drops.current.push(files);
      setUpload((now) => now && { ...now, waiting: now.waiting + files.length });
      if (abort.current) return;
      for (let next = drops.current.shift(); next; next = drops.current.shift()) await sendOne(next);
      abort.current = null;
      setUpload(null);
    },
    [sendOne],
  );
  const cancel = useCallback(() => {
    drops.current = [];
    abort.current?.();
  }, []);
  return { upload, send, cancel };
}
