import { useSyncExternalStore } from "react";

export type Theme = "chart" | "night";
const KEY = "plindro.theme";
const listeners = new Set<() => void>();

function stored(): Theme {
  return localStorage.getItem(KEY) === "night" ? "night" : "chart";
}

/** Put the stored theme on the page; called once before the first paint. */
export function applyTheme(): void {
  document.documentElement.dataset.theme = stored();
}

export function toggleTheme(): void {
  localStorage.setItem(KEY, stored() === "night" ? "chart" : "night");
  applyTheme();
  for (const listener of listeners) listener();
}

export function useTheme(): Theme {
  return useSyncExternalStore((listener) => {
    listeners.add(listener);
    return () => listeners.delete(listener);
  }, stored);
}
