import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";

import type { PropDetail } from "../../api/client";
import { keys } from "../../api/queries";
import { sendFiles } from "../../api/upload";
import { Button } from "../../parts/Button";
import { useNotify } from "../../parts/Toasts";

interface HandMadeProps {
  prop: PropDetail;
  index: number;
  name: string | null;
  onRemove: () => void;
}

/** A mesh that someone modelled for this level, in place of the computed one. */
export function HandMade({ prop, index, name, onRemove }: HandMadeProps) {
  const input = useRef<HTMLInputElement>(null);
  const [sending, setSending] = useState<number | null>(null);
  const queries = useQueryClient();
  const notify = useNotify();
  const send = async (files: File[]) => {
    if (!files.length) return;
    setSending(0);
    try {
      const named = files.map((file) => ({ file, path: file.name }));
      queries.setQueryData(
        keys.prop(prop.id),
        await sendFiles<PropDetail>(`/api/props/${prop.id}/levels/${index}/mesh`, named, setSending).done,
      );
    } catch (error) {
      notify({ title: error instanceof Error ? error.message : "the upload failed", isProblem: true });
    } finally {
      setSending(null);
    }
  };
  return (
    <div className="flex items-center gap-1">
      <input
        ref={input}
        type="file"
        multiple
        hidden
        aria-label={`Mesh of LOD${index}`}
        onChange={(event) => {
          void send([...(event.target.files ?? [])]);
          event.target.value = "";
        }}
      />
      <Button
        className="min-w-0 grow justify-center"
        disabled={sending !== null}
        onClick={() => input.current?.click()}
        title={name ?? "its pivot, size, materials, UVs and outline are checked against LOD0"}
      >
        <span className="truncate">
          {sending !== null ? `sending ${Math.round(sending * 100)} %` : (name ?? "Put in a mesh…")}
        </span>
      </Button>
      {name !== null && (
        <button
          type="button"
          aria-label={`Compute LOD${index} again`}
          title="compute it again"
          className="size-6 shrink-0 text-quiet hover:text-ink"
          onClick={onRemove}
        >
          ✕
        </button>
      )}
    </div>
  );
}
