import { useThree } from "@react-three/fiber";

import type { SurfaceLevel } from "./surfaceLevel";
import { type SurfaceHit, useSurfaceHits } from "./useSurfaceHits";

/** Lets the surface be pointed at and clicked in the view that it stands in. */
export function SurfacePicker(props: {
  surface: SurfaceLevel;
  onHover: (hit: SurfaceHit | null) => void;
  onPick: (hit: SurfaceHit) => void;
}) {
  const element = useThree((state) => state.gl.domElement);
  const camera = useThree((state) => state.camera);
  useSurfaceHits({ ...props, element, camera });
  return null;
}
