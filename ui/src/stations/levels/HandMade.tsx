import { useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";

import type { PropDetail } from "../../api/client";
import { keys } from "../../api/queries";
import { Button } from "../../parts/Button";
import { useFilesDecision } from "../useFilesDecision";

interface HandMadeProps {
  prop: PropDetail;
  index: number;
  name: string | null;
  onRemove: () => void;
}

/** A mesh that someone modelled for this level, in place of the computed one. */
export function HandMade({ prop, index, name, onRemove }: HandMadeProps) {
  const input = useRef<HTMLInputElement>(null);
  const queries = useQueryClient();
  const { send, sending } = useFilesDecision<PropDetail>(`/api/props/${prop.id}/levels/${index}/mesh`, (answer) =>
    queries.setQueryData(keys.prop(prop.id), answer),
  );
  return (
    <div className="flex items-center gap-1">
      <input
        ref={input}
        type="file"
        multiple
        hidden
        aria-label={`Mesh of LOD${index}`}
        onChange={(event) => {
          void send([...(event.target.files ?? [])].map((file) => ({ file, path: file.name })));
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
