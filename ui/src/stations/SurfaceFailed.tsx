import { Button } from "../parts/Button";
import type { SurfaceState } from "../viewport/useSheet";
import { places } from "./bench";

/** Says over the view that what its tools need did not load. */
export function SurfaceFailed({ of: { isFailed, retry } }: { of: SurfaceState }) {
  if (!isFailed) return null;
  return (
    <places.overlay.In>
      <div
        role="alert"
        className="absolute top-3 left-1/2 flex -translate-x-1/2 items-center gap-3 rounded border border-stop bg-sheet/95 px-3 py-2"
      >
        <span>The surface could not be loaded: edges and UVs are not shown.</span>
        <Button onClick={retry}>Load again</Button>
      </div>
    </places.overlay.In>
  );
}
