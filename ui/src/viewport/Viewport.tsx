import { Canvas } from "@react-three/fiber";
import { type KeyboardEvent, type PointerEvent, type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import { NeutralToneMapping } from "three";

import type { Finding } from "../api/client";
import { Button } from "../parts/Button";
import { applyMode, type DrawMode, type LoadedModel } from "./model";
import { placesAt, PlacesDrawn, placesBox } from "./Places";
import { type Hit, Picker } from "./Picker";
import { PivotDrawn } from "./Pivot";
import { Rose } from "./Rose";
import { Controls, Light, SplitRender } from "./Stage";
import { ChartGrid, gridCell, StandingFigure, withFigure } from "./Surroundings";
import { firstEye } from "./firstEye";
import { type Covered, FIELD_OF_VIEW } from "./fitting";
import { cornersOf, placesOf } from "./framed";
import type { Frame } from "./useFraming";
import type { EyeStore } from "./viewState";

interface ViewportProps {
  model: LoadedModel;
  left: number;
  right: number;
  split: number | null;
  mode: DrawMode;
  figure: boolean;
  finding: Finding | null;
  /** The one place of the finding that is led to; null = all of them. */
  place: number | null;
  /** Draws what the engine turns the prop about; with `spin` it turns. */
  pivot: boolean;
  spin: boolean;
  /** Called with what was clicked; nothing can be picked where it is null. */
  onPick: ((hit: Hit) => void) | null;
  frameStamp: number;
  /** What stands over the view: all of the prop is framed clear of it. */
  covered: Covered;
  /** What is open beside the view. */
  room: string;
  eye: EyeStore;
  onSplit: (at: number) => void;
  /** What the open station draws on the model. */
  children?: ReactNode;
  /** Draws the picture in place of the levels and their split. */
  picture?: ReactNode;
}

/** The prop in 3D, its surroundings, and the split between two levels. */
export function Viewport({
  model,
  left,
  right,
  split,
  mode,
  figure,
  finding,
  place,
  pivot,
  spin,
  onPick,
  frameStamp,
  covered,
  room,
  eye,
  onSplit,
  children,
  picture,
}: ViewportProps) {
  const bounds = useMemo(() => (figure ? withFigure(model.bounds) : model.bounds), [figure, model.bounds]);
  const cell = gridCell(model.sphere.radius * 2);
  useEffect(() => applyMode(model, mode), [model, mode]);
  const places = finding?.places ?? null;
  const led = useMemo(() => (places ? placesAt(places, place) : null), [places, place]);
  const isFirst = useRef(true);
  const [isLost, setLost] = useState(false);
  // A new result of the same prop keeps the view; only another size or place asks for another frame.
  const { radius, center } = model.sphere;
  const size = [radius.toPrecision(2), ...center.toArray().map((value) => Math.round((value / radius) * 4))].join(" ");
  const frame = useMemo<Frame>(() => {
    const box = led ? placesBox(led, model.sphere.radius * (place === null ? 0.2 : 0.06)) : figure ? bounds : null;
    const places = box ? cornersOf(box) : placesOf(model);
    const direction = isFirst.current && model.levels[0] ? firstEye(model.levels[0]) : null;
    isFirst.current = false;
    return { stamp: frameStamp, places, direction };
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [size, figure, led, frameStamp]);
  if (isLost) {
    return (
      <div role="alert" className="grid h-full place-items-center text-center">
        <div>
          <p className="mb-2">The graphics card dropped this view.</p>
          <Button onClick={() => setLost(false)}>Draw it again</Button>
        </div>
      </div>
    );
  }
  return (
    <div
      className="absolute inset-0"
      data-levels={model.levels
        .map((level) => level.name)
        .filter(Boolean)
        .join(" ")}
      style={{ background: "linear-gradient(var(--sky-top), var(--sky-bottom))" }}
    >
      <Canvas
        frameloop="demand"
        // A page that is zoomed out shows fewer pixels, and is drawn with no more.
        dpr={[0.5, 2]}
        camera={{ fov: FIELD_OF_VIEW }}
        gl={{ antialias: true, alpha: true, toneMapping: NeutralToneMapping, preserveDrawingBuffer: true }}
        onCreated={({ gl: { domElement } }) =>
          domElement.addEventListener("webglcontextlost", () => setLost(true), { once: true })
        }
        aria-label="The prop in 3D"
        role="img"
        tabIndex={0}
      >
        <Light />
        <Controls
          frame={frame}
          covered={covered}
          room={room}
          sceneRadius={model.sphere.radius}
          eye={eye}
          middle={model.sphere.center}
        />
        <ChartGrid bounds={model.bounds} cell={cell} />
        {figure && <StandingFigure bounds={model.bounds} />}
        {model.levels.map((level) => (
          <primitive key={level.object.uuid} object={level.object} dispose={null} />
        ))}
        {places && <PlacesDrawn places={led ?? places} />}
        {pivot && <PivotDrawn model={model} spin={spin} />}
        {children}
        {onPick && <Picker model={model} level={left} onPick={onPick} />}
        {picture ?? <SplitRender key={mode} model={model} left={left} right={right} split={split} />}
      </Canvas>
      {split !== null && <SplitHandle at={split} onMove={onSplit} />}
      <div className="pointer-events-none absolute right-3 bottom-3 flex flex-col items-center">
        <Rose eye={eye} />
        <span className="figure text-sm text-quiet">□ {cell >= 1 ? `${cell} m` : `${Math.round(cell * 1000)} mm`}</span>
      </div>
    </div>
  );
}

function SplitHandle({ at, onMove }: { at: number; onMove: (at: number) => void }) {
  const frame = useRef<HTMLDivElement>(null);
  const clamp = (value: number) => Math.min(Math.max(value, 0.03), 0.97);
  const drag = (event: PointerEvent) => {
    if (!event.currentTarget.hasPointerCapture(event.pointerId) || !frame.current) return;
    const box = frame.current.getBoundingClientRect();
    onMove(clamp((event.clientX - box.left) / box.width));
  };
  const onKey = (event: KeyboardEvent) => {
    const step = { ArrowLeft: -0.02, ArrowRight: 0.02 }[event.key];
    if (step === undefined) return;
    event.preventDefault();
    onMove(clamp(at + step));
  };
  return (
    <div ref={frame} className="pointer-events-none absolute inset-0">
      <div className="absolute inset-y-0 w-px bg-mark" style={{ left: `${at * 100}%` }} />
      <div
        role="slider"
        tabIndex={0}
        aria-label="Split between the two levels"
        aria-valuenow={Math.round(at * 100)}
        aria-valuemin={0}
        aria-valuemax={100}
        onKeyDown={onKey}
        onPointerDown={(event) => event.currentTarget.setPointerCapture(event.pointerId)}
        onPointerMove={drag}
        className="pointer-events-auto absolute top-1/2 grid size-7 -translate-1/2 cursor-ew-resize touch-none place-items-center rounded-full border-2 border-mark bg-sheet text-mark"
        style={{ left: `${at * 100}%` }}
      >
        ⇔
      </div>
    </div>
  );
}
