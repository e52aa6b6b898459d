import { useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";

import type { PropDetail } from "../api/client";
import { keys } from "../api/queries";
import { Button } from "../parts/Button";
import { useFilesDecision } from "./useFilesDecision";

interface MeshFileProps {
  prop: PropDetail;
  /** Below that of the prop. */
  address: string;
  /** What the mesh is for. */
  label: string;
  hint: string;
  name: string | null;
  removal: string;
  onRemove: () => void;
}

/** A mesh that someone modelled, in place of a computed one. */
export function MeshFile({ prop, address, label, hint, name, removal, onRemove }: MeshFileProps) {
  const input = useRef<HTMLInputElement>(null);
  const queries = useQueryClient();
  const { send, sending } = useFilesDecision<PropDetail>(`/api/props/${prop.id}/${address}`, (answer) =>
    queries.setQueryData(keys.prop(prop.id), answer),
  );
  return (
    <div className="flex items-center gap-1">
      <input
        ref={input}
        type="file"
        multiple
        hidden
        aria-label={label}
        onChange={(event) => {
          void send([...(event.target.files ?? [])].map((file) => ({ file, path: file.name })));
          event.target.value = "";
        }}
      />
      <Button
        className="min-w-0 grow justify-center"
        disabled={sending !== null}
        onClick={() => input.current?.click()}
        title={name ?? hint}
      >
        <span className="truncate">
          {sending !== null ? `sending ${Math.round(sending * 100)} %` : (name ?? "Put in a mesh…")}
        </span>
      </Button>
      {name !== null && (
        <button
          type="button"
          aria-label={removal}
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
