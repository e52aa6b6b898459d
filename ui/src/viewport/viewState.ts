import { useSyncExternalStore } from "react";

/** Where the eye is: metres from the prop's middle, and its bearing in degrees. Changes at every frame of an orbit. */
export interface Eye {
  distance: number;
  bearing: number;
}

/** A small store outside React, so that an orbit renders only what shows it. */
export class EyeStore {
  private eye: Eye = { distance: 1, bearing: 0 };
  private listeners = new Set<() => void>();

  get = (): Eye => this.eye;

  set(next: Eye): void {
    if (Math.abs(next.distance - this.eye.distance) < 1e-4 && Math.abs(next.bearing - this.eye.bearing) < 0.05) return;
    this.eye = next;
    for (const listener of this.listeners) listener();
  }

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => {
      this.listeners.delete(listener);
    };
  };
}

export function useEye(store: EyeStore): Eye {
  return useSyncExternalStore(store.subscribe, store.get);
}
