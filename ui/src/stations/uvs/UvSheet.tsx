import { Canvas } from "@react-three/fiber";
import { useCallback, useMemo } from "react";
import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshBasicMaterial,
  PlaneGeometry,
  type Texture,
} from "three";

import { useTheme } from "../../app/theme";
import { next } from "../../surface/surface";
import { paddingBands } from "../../surface/uvPadding";
import { islandAt, sheetPlaces, trianglesOf, type UvIslands } from "../../surface/uvs";
import { PanZoom } from "../../viewport/PanZoom";
import { useDrawn } from "../../viewport/useDrawn";
import { type SheetView, triangleColours } from "../../surface/uvColours";

/** Share of the view that the square fills at first. */
const FILLS = 0.86;
/** The place up the sheet that is in the middle of the view at first: what stands below needs more room than above. */
const MIDDLE = 0.455;
const CENTRE = [0.5, MIDDLE] as const;

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
  const under = useCallback(([x, y]: [number, number]) => islandAt(channel, x, 1 - y), [channel]);
  const hover = useCallback((place: [number, number] | null) => onHover(place && under(place)), [onHover, under]);
  const pick = useCallback((place: [number, number]) => onPick(under(place)), [onPick, under]);
  return <PanZoom middle={CENTRE} extent={1} fills={FILLS} stamp={stamp} onHover={hover} onPick={pick} />;
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
