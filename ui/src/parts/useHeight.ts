import { useCallback, useState } from "react";

/** The ref for an element, and its height in pixels as it is now; 0 before it is there. */
export function useHeight() {
  const [height, setHeight] = useState(0);
  const ref = useCallback((element: HTMLElement | null) => {
    if (!element) return;
    const measure = () => setHeight(element.offsetHeight);
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  return [ref, height] as const;
}
