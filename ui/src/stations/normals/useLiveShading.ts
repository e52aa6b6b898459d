import { invalidate } from "@react-three/fiber";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import type { PropDetail } from "../../api/client";
import { LiveShading, type Rule } from "../../surface/shading";
import type { SurfaceLevel } from "../../viewport/surfaceLevel";

/** The rule by which the prop was built, as the live shading needs it; by angle where its normals are the source's. */
function ruleOf({ facts, settings: { normals } }: PropDetail): Rule {
  const rule = facts.normals?.rule ?? "imported";
  const angle = rule === "smooth" ? 180 : rule === "flat" ? -1 : (facts.normals?.angle ?? null);
  return {
    angle,
    ownHard: rule !== "smooth" && rule !== "flat",
    weights: normals.weighting,
    share: normals.large_face_ratio,
    strength: normals.large_face_strength,
  };
}

/**
 * LOD0's shading: as it was built, and as the threshold would have it while that is moved. `show` draws what was changed of
 * it, and counts `revision` up.
 */
export function useLiveShading(prop: PropDetail, active: SurfaceLevel | null, angle: number) {
  const [revision, setRevision] = useState(0);
  const [begun, begin] = useState(0);
  const live = useMemo(() => {
    if (!active) return null;
    active.normals.set(active.surface.normals);
    active.update();
    return new LiveShading(active.surface, ruleOf(prop), active.normals);
    // The rule is that of the built model; settings that were decided since belong to the next one.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [active, prop.model, begun]);
  const show = useCallback(() => {
    active?.update();
    invalidate();
    setRevision((old) => old + 1);
  }, [active]);
  useEffect(() => {
    if (begun > 0) show();
  }, [begun, show]);

  // The slider moves the threshold of what is drawn at once; letting it go decides.
  const decided = prop.settings.normals.angle;
  const before = useRef(decided);
  const isMoved = useRef(false);
  useEffect(() => {
    const isDecision = decided !== before.current;
    before.current = decided;
    if (!live) return;
    if (angle !== decided) {
      isMoved.current = true;
      live.setAngle(angle);
      show();
    } else if (isMoved.current) {
      isMoved.current = false;
      // Moved back to where it was: what was built may have had another rule, or normals of the source.
      if (!isDecision) begin((old) => old + 1);
    }
  }, [live, angle, decided, show]);
  return { live, show, revision };
}
