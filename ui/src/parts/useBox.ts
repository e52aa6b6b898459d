import { useCallback, useState } from "react";

export interface Box {
  width: number;
  height: number;
}

/** The ref for an element, and how many pixels it takes now; none before it is there. */
export function useBox() {
  const [box, setBox] = useState<Box>({ width: 0, height: 0 });
  const ref = useCallback((element: HTMLElement | null) => {
    if (!element) return;
    const measure = () => setBox({ width: element.offsetWidth, height: element.offsetHeight });
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return [ref, box] as const;
}
