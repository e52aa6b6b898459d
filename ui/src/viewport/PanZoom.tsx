import { useThree } from "@react-three/fiber";
import { useEffect, useRef } from "react";
import type { OrthographicCamera } from "three";

/** A press that moves no further is a click. */
const STILL = 4;
const NEAREST = 200_000;

interface PanZoomProps {
  /** The place in the middle of the view at first, and the length that fills it. */
  middle: readonly [number, number];
  extent: number;
  /** Share of the view that the extent fills. */
  fills: number;
  /** Pixels of the screen for one of the plane at first; null where the extent fills the view. */
  zoom?: number | null;
  /** Another number frames the plane anew. */
  stamp: number;
  onHover?: (place: [number, number] | null) => void;
  onPick?: (place: [number, number]) => void;
}

/** Moves an orthographic view over a plane: dragged, zoomed about the pointer, framed anew. */
export function PanZoom({ middle, extent, fills, zoom = null, stamp, onHover, onPick }: PanZoomProps) {
  const { gl, size, invalidate } = useThree();
  const camera = useThree((state) => state.camera) as OrthographicCamera;
  const moved = useRef(false);
  const [x0, y0] = middle;
  const framed = zoom ?? (fills * Math.min(size.width, size.height)) / extent;
  useEffect(() => {
    camera.zoom = framed;
    camera.position.set(x0, y0, 10);
    // A camera looks at the origin unless it is told where to.
    camera.rotation.set(0, 0, 0);
    moved.current = false;
    camera.updateProjectionMatrix();
    invalidate();
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [stamp, camera, x0, y0, zoom]);
  useEffect(() => {
    // Until it is moved the extent fills its place, whatever size that has.
    if (!moved.current) camera.zoom = framed;
    camera.updateProjectionMatrix();
    invalidate();
  }, [framed, camera, invalidate]);
  useEffect(() => {
    const element = gl.domElement;
    const placeOf = (event: PointerEvent | WheelEvent): [number, number] => {
      const box = element.getBoundingClientRect();
      return [
        camera.position.x + (event.clientX - box.left - box.width / 2) / camera.zoom,
        camera.position.y - (event.clientY - box.top - box.height / 2) / camera.zoom,
      ];
    };
    let from: { x: number; y: number; far: boolean } | null = null;
    const press = (event: PointerEvent) => {
      element.setPointerCapture(event.pointerId);
      from = { x: event.clientX, y: event.clientY, far: false };
    };
    const move = (event: PointerEvent) => {
      if (!from) return onHover?.(placeOf(event));
      const [dx, dy] = [event.clientX - from.x, event.clientY - from.y];
      if (!from.far && Math.hypot(dx, dy) <= STILL) return;
      camera.position.x -= dx / camera.zoom;
      camera.position.y += dy / camera.zoom;
      from = { x: event.clientX, y: event.clientY, far: true };
      moved.current = true;
      invalidate();
    };
    const release = (event: PointerEvent) => {
      if (from && !from.far && event.button === 0) onPick?.(placeOf(event));
      from = null;
    };
    const cancel = () => (from = null);
    const leave = () => onHover?.(null);
    const turn = (event: WheelEvent) => {
      event.preventDefault();
      const [x, y] = placeOf(event);
      const by = Math.exp(-event.deltaY * 0.0015);
      camera.zoom = Math.min(Math.max(camera.zoom * by, 20 / extent), NEAREST / extent);
      const [u, v] = placeOf(event);
      camera.position.x += x - u;
      camera.position.y += y - v;
      moved.current = true;
      camera.updateProjectionMatrix();
      invalidate();
    };
    element.addEventListener("pointerdown", press);
    element.addEventListener("pointermove", move);
    element.addEventListener("pointerup", release);
    element.addEventListener("pointercancel", cancel);
    element.addEventListener("pointerleave", leave);
    element.addEventListener("wheel", turn, { passive: false });
    return () => {
      element.removeEventListener("pointerdown", press);
      element.removeEventListener("pointermove", move);
      element.removeEventListener("pointerup", release);
      element.removeEventListener("pointercancel", cancel);
      element.removeEventListener("pointerleave", leave);
      element.removeEventListener("wheel", turn);
    };
  }, [gl, camera, extent, onHover, onPick, invalidate]);
  return null;
}
