import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";

import { keys } from "../../api/queries";
import { type NamedFile, uploadFiles } from "../../api/upload";
import { plural } from "../../parts/format";
import { useNotify } from "../../parts/Toasts";

export interface Upload {
  files: number;
  fraction: number;
}

/** Sending dropped files: progress, cancel, and a word on what could not be used. */
export function useUpload() {
  const [upload, setUpload] = useState<Upload | null>(null);
  const abort = useRef<(() => void) | null>(null);
  const queries = useQueryClient();
  const notify = useNotify();
  const send = useCallback(
    async (files: NamedFile[]) => {
      if (!files.length) return;
      setUpload({ files: files.length, fraction: 0 });
      const { done, cancel } = uploadFiles(files, (fraction) => setUpload({ files: files.length, fraction }));
      abort.current = cancel;
      try {
        const answer = await done;
        if (answer.props.length)
          notify({ title: `${plural(answer.props.length, "prop")} taken`, lines: ["They are being built now."] });
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
      } finally {
        setUpload(null);
        abort.current = null;
      }
    },
    [notify, queries],
  );
  return { upload, send, cancel: () => abort.current?.() };
}
