import { context, type RootState } from "@react-three/fiber";
import type { ReactNode } from "react";
import { PerspectiveCamera, Scene } from "three";
import { vi } from "vitest";

type Frame = { current: (state: RootState, seconds: number) => void };

/** A 3D view of 400 × 300 pixels without a graphics card: what stands in it runs, and draws when the test says so. */
export function makeView(more: object = {}) {
  const canvas = document.createElement("canvas");
  canvas.getBoundingClientRect = () => new DOMRect(0, 0, 400, 300);
  canvas.setPointerCapture = () => undefined;
  const frames = new Set<Frame>();
  const state = {
    camera: new PerspectiveCamera(60, 4 / 3),
    scene: new Scene(),
    gl: { domElement: canvas },
    size: { width: 400, height: 300 },
    controls: null,
    invalidate: vi.fn(),
    internal: {
      subscribe: (frame: Frame) => {
        frames.add(frame);
        return () => frames.delete(frame);
      },
    },
    ...more,
  };
  const all = state as unknown as RootState;
  const store = Object.assign((select: (all: RootState) => unknown = (one) => one) => select(all), {
    getState: () => all,
  });
  return {
    ...state,
    canvas,
    View: ({ children }: { children: ReactNode }) => (
      <context.Provider value={store as never}>{children}</context.Provider>
    ),
    draw: (seconds: number) => frames.forEach((frame) => frame.current(all, seconds)),
  };
}
