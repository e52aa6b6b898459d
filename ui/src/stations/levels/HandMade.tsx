import type { PropDetail } from "../../api/client";
import { MeshFile } from "../MeshFile";

interface HandMadeProps {
  prop: PropDetail;
  index: number;
  name: string | null;
  onRemove: () => void;
}

/** A mesh that someone modelled for this level, in place of the computed one. */
export function HandMade({ prop, index, name, onRemove }: HandMadeProps) {
  return (
    <MeshFile
      prop={prop}
      address={`levels/${index}/mesh`}
      label={`Mesh of LOD${index}`}
      hint="its pivot, size, materials, UVs and outline are checked against LOD0"
      name={name}
      removal={`Compute LOD${index} again`}
      onRemove={onRemove}
    />
  );
}
