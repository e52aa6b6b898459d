import { useEffect, useMemo, useState } from "react";

import type { Finding, PropDetail } from "../../api/client";
import { hasPlaces, sorted } from "../../api/findings";

/** The finding whose places are shown, and the one of them that is led to; both end with the model. */
export function useFindingShown(prop: PropDetail) {
  const [finding, setFinding] = useState<Finding | null>(null);
  const [place, setPlace] = useState<number | null>(null);
  useEffect(() => setFinding(null), [prop.model]);
  useEffect(() => setPlace(null), [finding]);
  const count = finding?.places?.points.length ?? 0;
  const located = useMemo(() => sorted(prop.findings).filter(hasPlaces), [prop.findings]);
  return {
    finding,
    place,
    setFinding,
    /** Leads to the next place or the one before, round and round. */
    step: (by: number) =>
      count > 0 && setPlace((old) => (old === null ? (by > 0 ? 0 : count - 1) : (old + by + count) % count)),
    /** The next finding that has places; null where none has. */
    next: (): Finding | null =>
      located[(finding ? located.indexOf(finding) + 1 : 0) % Math.max(located.length, 1)] ?? null,
  };
}
