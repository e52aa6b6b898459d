import { useState } from "react";

import { Stale } from "../api/client";
import { type NamedFile, sendFiles } from "../api/upload";
import { useNotify } from "../parts/Toasts";
import { useBench } from "./bench";

/** Deciding by files that are sent, in view of the prop as it is shown; `sending` is the fraction sent, or null. */
export function useFilesDecision<T>(address: string, onTaken: (answer: T) => void) {
  const { prop, askWhich } = useBench();
  const [sending, setSending] = useState<number | null>(null);
  const notify = useNotify();
  const send = async (files: NamedFile[], version = prop.version) => {
    if (!files.length) return;
    setSending(0);
    try {
      onTaken(await sendFiles<T>(`${address}?version=${version}`, files, setSending).done);
    } catch (error) {
      if (error instanceof Stale) askWhich(error, (now) => void send(files, now));
      else notify({ title: error instanceof Error ? error.message : "the upload failed", isProblem: true });
    } finally {
      setSending(null);
    }
  };
  return { send: (files: NamedFile[]) => send(files), sending };
}
