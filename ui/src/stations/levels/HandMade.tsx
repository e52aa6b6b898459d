import type { PropDetail } from "../../api/client";
import { MeshFile } from "../MeshFile";

interface HandMadeProps {
  prop: PropDetail;
  /** Which of the line's levels it is, from 1, and what it is called. */
  place: number;
  level: string;
  name: string | null;
  onRemove: () => void;
}

/** A mesh that someone modelled for this level, in place of the computed one. */
export function HandMade({ prop, place, level, name, onRemove }: HandMadeProps) {
  return (
    <MeshFile
      prop={prop}
      address={`levels/${place}/mesh`}
      label={`Mesh of ${level}`}
      hint="its pivot, size, materials, UVs and outline are checked against LOD0"
      name={name}
      removal={`Compute ${level} again`}
      onRemove={onRemove}
    />
  );
}
