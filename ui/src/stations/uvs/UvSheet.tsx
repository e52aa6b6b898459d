import { Canvas, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef } from "react";
import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
  type OrthographicCamera,
  PlaneGeometry,
  type Texture,
} from "three";

import { useTheme } from "../../app/theme";
import { next } from "../../surface/surface";
import { paddingBands } from "../../surface/uvPadding";
import { islandAt, sheetPlaces, trianglesOf, type UvIslands } from "../../surface/uvs";
import { useDrawn } from "../../viewport/useDrawn";
import { type SheetView, triangleColours } from "../../surface/uvColours";

/** Share of the view that the square fills at first. */
const FILLS = 0.86;
/** The place up the sheet that is in the middle of the view at first: what stands below needs more room than above. */
const MIDDLE = 0.455;
const STILL = 4;

interface UvSheetProps {
  channel: UvIslands;
  view: SheetView;
  /** What lies under the islands; null for plain paper. */
  under: Texture | null;
  island: number | null;
  /** How far islands should stay apart, in UVs; null where it is not drawn. */
  padding: number | null;
  onHover: (island: number | null) => void;
  onPick: (island: number | null) => void;
  /** Another number frames the square anew. */
  stamp: number;
}

/** The square with the islands of a channel over it: dragged, zoomed, and each island found under the pointer. */
export function UvSheet({ channel, view, under, island, padding, onHover, onPick, stamp }: UvSheetProps) {
  return (
    <Canvas
      orthographic
      frameloop="demand"
      dpr={[0.5, 2]}
      camera={{ position: [0.5, MIDDLE, 10], near: 0, far: 20 }}
      gl={{ antialias: true, alpha: true, preserveDrawingBuffer: true }}
      flat
      role="img"
      tabIndex={0}
      aria-label={`UV sheet, ${channel.count} islands`}
    >
      <Hand channel={channel} onHover={onHover} onPick={onPick} stamp={stamp} />
      <Paper under={under} />
      <Islands channel={channel} view={view} isOver={under !== null} />
      {padding !== null && <Padding channel={channel} width={padding} />}
      <Rims channel={channel} />
      {island !== null && <Marked channel={channel} island={island} />}
    </Canvas>
  );
}

/** Moves the view over the sheet, and tells what is under the pointer. */
function Hand({ channel, onHover, onPick, stamp }: Pick<UvSheetProps, "channel" | "onHover" | "onPick" | "stamp">) {
  const { gl, size, invalidate } = useThree();
  const camera = useThree((state) => state.camera) as OrthographicCamera;
  const moved = useRef(false);
  useEffect(() => {
    camera.zoom = FILLS * Math.min(size.width, size.height);
    camera.position.set(0.5, MIDDLE, 10);
    // A camera looks at the origin unless it is told where to.
    camera.rotation.set(0, 0, 0);
    moved.current = false;
    camera.updateProjectionMatrix();
    invalidate();
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [stamp, camera]);
  useEffect(() => {
    // Until it is moved the square fills its place, whatever size that has.
    if (!moved.current) camera.zoom = FILLS * Math.min(size.width, size.height);
    camera.updateProjectionMatrix();
    invalidate();
  }, [size, camera, invalidate]);
  useEffect(() => {
    const element = gl.domElement;
    const placeOf = (event: PointerEvent | WheelEvent): [number, number] => {
      const box = element.getBoundingClientRect();
      return [
        camera.position.x + (event.clientX - box.left - box.width / 2) / camera.zoom,
        camera.position.y - (event.clientY - box.top - box.height / 2) / camera.zoom,
      ];
    };
    const under = (event: PointerEvent): number | null => {
      const [x, y] = placeOf(event);
      return islandAt(channel, x, 1 - y);
    };
    let from: { x: number; y: number; far: boolean } | null = null;
    const press = (event: PointerEvent) => {
      element.setPointerCapture(event.pointerId);
      from = { x: event.clientX, y: event.clientY, far: false };
    };
    const move = (event: PointerEvent) => {
      if (!from) return onHover(under(event));
      const [dx, dy] = [event.clientX - from.x, event.clientY - from.y];
      if (!from.far && Math.hypot(dx, dy) <= STILL) return;
      camera.position.x -= dx / camera.zoom;
      camera.position.y += dy / camera.zoom;
      from = { x: event.clientX, y: event.clientY, far: true };
      moved.current = true;
      invalidate();
    };
    const release = (event: PointerEvent) => {
      if (from && !from.far && event.button === 0) onPick(under(event));
      from = null;
    };
    const leave = () => onHover(null);
    const zoom = (event: WheelEvent) => {
      event.preventDefault();
      const [x, y] = placeOf(event);
      const by = Math.exp(-event.deltaY * 0.0015);
      camera.zoom = Math.min(Math.max(camera.zoom * by, 20), 200_000);
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
    element.addEventListener("pointerleave", leave);
    element.addEventListener("wheel", zoom, { passive: false });
    return () => {
      element.removeEventListener("pointerdown", press);
      element.removeEventListener("pointermove", move);
      element.removeEventListener("pointerup", release);
      element.removeEventListener("pointerleave", leave);
      element.removeEventListener("wheel", zoom);
    };
  }, [gl, camera, channel, onHover, onPick, invalidate]);
  return null;
}

/** The unit square, what lies in it, and the borders of the squares around it. */
function Paper({ under }: { under: Texture | null }) {
  const night = useTheme() === "night";
  const square = useMemo(() => {
    const geometry = new PlaneGeometry(1, 1).translate(0.5, 0.5, -2);
    const uv = geometry.getAttribute("uv");
    // V runs down.
    for (let i = 0; i < uv.count; i += 1) uv.setY(i, 1 - uv.getY(i));
    const material = new MeshBasicMaterial(
      under ? { map: under } : { color: night ? "#1b2a42" : "#fbfaf5", transparent: false },
    );
    return new Mesh(geometry, material);
  }, [under, night]);
  const borders = useMemo(() => {
    const points: number[] = [];
    for (let i = -2; i <= 3; i += 1) points.push(i, -2, -1, i, 3, -1, -2, i, -1, 3, i, -1);
    const geometry = new BufferGeometry().setAttribute("position", new BufferAttribute(new Float32Array(points), 3));
    return new LineSegments(
      geometry,
      new LineBasicMaterial({ color: night ? "#5a6c8c" : "#9aa7b8", transparent: true, opacity: 0.6 }),
    );
  }, [night]);
  useDrawn(square, null);
  useDrawn(borders, null);
  return null;
}

function Islands({ channel, view, isOver }: { channel: UvIslands; view: SheetView; isOver: boolean }) {
  const drawn = useMemo(() => {
    const geometry = new BufferGeometry();
    geometry.setAttribute("position", new BufferAttribute(sheetPlaces(channel.uvs, 0), 3));
    geometry.setAttribute("color", new BufferAttribute(triangleColours(channel, view), 3));
    const opacity = isOver ? 0.35 : view === "islands" ? 0.6 : 0.85;
    const material = new MeshBasicMaterial({
      vertexColors: true,
      transparent: true,
      opacity,
      side: DoubleSide,
      depthTest: false,
      depthWrite: false,
    });
    const mesh = new Mesh(geometry, material);
    mesh.renderOrder = 1;
    return mesh;
  }, [channel, view, isOver]);
  useDrawn(drawn, null);
  return null;
}

/** Half the padding around each island: where two of these meet, islands are too close. */
function Padding({ channel, width }: { channel: UvIslands; width: number }) {
  const night = useTheme() === "night";
  const drawn = useMemo(() => {
    const bands = paddingBands(channel, width / 2, 0.5);
    const mesh = new Mesh(
      new BufferGeometry().setAttribute("position", new BufferAttribute(bands, 3)),
      new MeshBasicMaterial({
        color: night ? "#f06bb5" : "#a81e6e",
        transparent: true,
        opacity: 0.3,
        side: DoubleSide,
        depthTest: false,
        depthWrite: false,
      }),
    );
    mesh.renderOrder = 1.5;
    return mesh;
  }, [channel, width, night]);
  useDrawn(drawn, null);
  return null;
}

function Rims({ channel }: { channel: UvIslands }) {
  const night = useTheme() === "night";
  const drawn = useMemo(() => {
    const at = sheetPlaces(channel.uvs, 1);
    const points = new Float32Array(6 * channel.rim.length);
    channel.rim.forEach((c, i) => {
      points.set(at.subarray(3 * c, 3 * c + 3), 6 * i);
      points.set(at.subarray(3 * next(c), 3 * next(c) + 3), 6 * i + 3);
    });
    const lines = new LineSegments(
      new BufferGeometry().setAttribute("position", new BufferAttribute(points, 3)),
      new LineBasicMaterial({
        color: night ? "#e8eefa" : "#14233c",
        transparent: true,
        opacity: 0.75,
        depthTest: false,
      }),
    );
    lines.renderOrder = 2;
    return lines;
  }, [channel, night]);
  useDrawn(drawn, null);
  return null;
}

function Marked({ channel, island }: { channel: UvIslands; island: number }) {
  const night = useTheme() === "night";
  const drawn = useMemo(() => {
    const at = sheetPlaces(channel.uvs, 2);
    const points = trianglesOf(channel, island).flatMap((t) => [...at.subarray(9 * t, 9 * t + 9)]);
    const mesh = new Mesh(
      new BufferGeometry().setAttribute("position", new BufferAttribute(new Float32Array(points), 3)),
      new MeshBasicMaterial({
        color: night ? "#f06bb5" : "#a81e6e",
        transparent: true,
        opacity: 0.55,
        side: DoubleSide,
        depthTest: false,
      }),
    );
    mesh.renderOrder = 3;
    return mesh;
  }, [channel, island, night]);
  useDrawn(drawn, null);
  return null;
}
