import { scaleLog } from "d3-scale";
import { type KeyboardEvent, type PointerEvent, type RefObject, useEffect, useRef, useState } from "react";

import type { Level, PropDetail } from "../../api/client";
import { Button } from "../../parts/Button";
import { count, isPowerOfTen, metres as inMetres, pixels } from "../../parts/format";
import { Segmented } from "../../parts/Segmented";
import { distanceOf, pixelsOf } from "../../viewport/gameView";
import { type EyeStore, useEye } from "../../viewport/viewState";
import type { Decide } from "../bench";
import { namesAt, type SwitchLabel, switchLabels } from "./switchLabels";
import { drawnAt, switchesOf, visibleChange } from "./switches";
import { Heading } from "../../parts/Heading";
import { LevelFigures } from "./LevelFigures";
import { useSize } from "../../parts/useSize";

const PAD = { left: 52, right: 24, top: 20, bottom: 22 };
const [PX_LOW, PX_HIGH] = [0.1, 10];
const KEY_STEP = 1.05;
/** Pieces in which a curve is drawn. */
const CURVE = 32;
const SHOWN: { value: "chart" | "figures"; label: string; hint: string }[] = [
  { value: "chart", label: "Sight", hint: "visible change against distance" },
  { value: "figures", label: "Figures", hint: "what each level costs and changes" },
];

interface SightChartProps {
  prop: PropDetail;
  eye: EyeStore;
  decide: Decide;
}

/** What each level changes, in pixels against the viewer's distance; where each begins is a handle on its curve. */
export function SightChart({ prop, eye, decide }: SightChartProps) {
  const { ref, width, height } = useSize<HTMLDivElement>();
  const [shows, setShows] = useState<"chart" | "figures">("chart");
  const switches = switchesOf(prop);
  const { view, threshold, bias } = switches;
  const levels = prop.levels.filter((level) => level.index > 0);
  const furthest = Math.max(switches.last ?? 0, ...levels.map((level) => Math.max(level.distance, level.proposed)));
  // From where the eye is at the prop to past the last switch.
  const from = roundDown(Math.max(view.radius, 1e-3));
  const to = Math.max(from * 100, 10 * roundDown(Math.max(furthest, 1e-6) * 0.25));
  const [span, room] = [Math.max(width - PAD.left - PAD.right, 50), Math.max(height - PAD.top - PAD.bottom, 30)];
  const along = scaleLog([from, to], [PAD.left, PAD.left + span]);
  const x = along.copy().clamp(true);
  const up = scaleLog([PX_LOW, PX_HIGH], [PAD.top + room, PAD.top]);
  const y = up.copy().clamp(true);
  const metresAt = (clientX: number) => {
    const box = ref.current?.getBoundingClientRect();
    return box ? x.invert(clientX - box.left) : from;
  };
  const ticks = x
    .ticks()
    .filter((metres) => isPowerOfTen(metres) || isPowerOfTen(metres / 2) || isPowerOfTen(metres / 5));

  const labels = switchLabels(prop.levels.map((level) => x(level.distance)));
  const targets = prop.settings.levels.levels;
  const own = (level: Level) => targets[level.target]?.switch_distance != null;
  const isAdjusted = levels.some(own) || prop.settings.levels.cull_distance != null;
  const setFrom = (level: Level, metres: number) =>
    decide("levels", {
      levels: targets.map((one, i) =>
        i === level.target ? { ...one, switch_distance: Number((metres / bias).toPrecision(3)) } : one,
      ),
    });
  const setLast = (metres: number) => decide("levels", { cull_distance: Number((metres / bias).toPrecision(3)) });
  const reset = () =>
    decide("levels", { levels: targets.map((one) => ({ ...one, switch_distance: null })), cull_distance: null });

  return (
    <div className="flex h-full flex-col">
      <div className="flex items-start gap-2 pr-9">
        <Heading
          question="From where can a switch not be seen?"
          reading={
            shows === "figures"
              ? "Maximum deviation; how far the silhouette moves; width over which the shading turns; mean angle of the normals."
              : `Visible change from LOD0, in pixels at ${count(view.lines)} lines over ${view.angle}°. Below the dashed ${threshold} px it is not seen. Drag a handle to move its switch.`
          }
        />
        <span className="grow" />
        {isAdjusted && (
          <Button className="mt-1 shrink-0" onClick={reset} title="all switches where they were proposed">
            As proposed
          </Button>
        )}
        <span className="mt-1 shrink-0">
          <Segmented label="Evidence of the levels" value={shows} options={SHOWN} onChange={setShows} />
        </span>
      </div>
      {shows === "figures" && <LevelFigures prop={prop} />}
      <div ref={ref} className={shows === "figures" ? "hidden" : "relative min-h-0 grow"}>
        {levels.length > 0 ? (
          <svg
            width={width}
            height={height}
            className="absolute inset-0"
            role="group"
            aria-label="Visible change of the levels in pixels against distance"
          >
            <clipPath id="sight-area">
              <rect x={PAD.left} y={PAD.top} width={span} height={room} />
            </clipPath>
            {[0.1, 1, 10].map((px) => (
              <g key={px}>
                <line x1={PAD.left} x2={PAD.left + span} y1={y(px)} y2={y(px)} stroke="var(--rule)" />
                <text
                  x={PAD.left - 8}
                  y={y(px) + 4}
                  textAnchor="end"
                  className="figure"
                  fontSize="11"
                  fill="var(--quiet)"
                >
                  {px} px
                </text>
              </g>
            ))}
            <line
              x1={PAD.left}
              x2={PAD.left + span}
              y1={y(threshold)}
              y2={y(threshold)}
              stroke="var(--mark)"
              strokeDasharray="5 4"
            />
            {ticks.map((metres) => (
              <g key={metres}>
                <line x1={x(metres)} x2={x(metres)} y1={PAD.top} y2={PAD.top + room} stroke="var(--rule)" />
                <text
                  x={x(metres)}
                  y={height - 6}
                  textAnchor="middle"
                  className="figure"
                  fontSize="11"
                  fill="var(--quiet)"
                >
                  {inMetres(metres)}
                </text>
              </g>
            ))}
            <g clipPath="url(#sight-area)">
              {levels.map((level) => {
                const length = visibleChange(level);
                if (length <= 0) return null;
                const points = Array.from(
                  { length: CURVE + 1 },
                  (_, i) => 2 * PX_HIGH * (PX_LOW / 4 / PX_HIGH) ** (i / CURVE),
                );
                return (
                  <polyline
                    key={level.index}
                    points={points.map((px) => `${along(distanceOf(view, length, px))},${up(px)}`).join(" ")}
                    fill="none"
                    stroke={`var(--curve-${level.index})`}
                    strokeWidth="2"
                  />
                );
              })}
            </g>
            {switches.last !== null && (
              <Handle
                label="Metres beyond which the prop is not drawn"
                metres={switches.last}
                from={from}
                to={to}
                metresAt={metresAt}
                onCommit={setLast}
                draw={(metres, isHeld) => (
                  <g>
                    <rect
                      x={x(metres)}
                      y={PAD.top}
                      width={Math.max(PAD.left + span - x(metres), 0)}
                      height={room}
                      fill="var(--quiet)"
                      opacity="0.13"
                    />
                    <rect x={x(metres) - 7} y={PAD.top} width="14" height={room} fill="transparent" />
                    <line
                      x1={x(metres)}
                      x2={x(metres)}
                      y1={PAD.top}
                      y2={PAD.top + room}
                      stroke="var(--quiet)"
                      strokeWidth={isHeld ? 2.5 : 1.5}
                      strokeDasharray="2 3"
                    />
                    <Words
                      x={x(metres) - 6}
                      y={PAD.top + room - 6}
                      anchor="end"
                      text={`not drawn beyond ${inMetres(metres)}`}
                    />
                  </g>
                )}
              />
            )}
            {levels.filter(isOfBase).map((level) => {
              const place = y(pixelsOf(view, visibleChange(level), level.distance / bias));
              const label = labels[level.index];
              return (
                <g key={level.index}>
                  <circle cx={x(level.distance)} cy={place} r="3.5" fill={`var(--curve-${level.index})`} />
                  {label && (
                    <Label
                      at={x(level.distance)}
                      y={place}
                      side={label.side}
                      name={namesAt(label.first, level.index)}
                      words={`${inMetres(level.distance)} · base`}
                    />
                  )}
                </g>
              );
            })}
            {levels
              .filter((level) => !isOfBase(level))
              .map((level) => (
                <Handle
                  key={level.index}
                  label={`Metres from which LOD${level.index} is drawn`}
                  metres={level.distance}
                  from={from}
                  to={to}
                  metresAt={metresAt}
                  onCommit={(metres) => setFrom(level, metres)}
                  draw={(metres, isHeld) => {
                    const cost = pixelsOf(view, visibleChange(level), metres / bias);
                    const place = y(cost);
                    const label = labels[level.index];
                    return (
                      <g>
                        {own(level) && (
                          <circle
                            cx={x(level.proposed)}
                            cy={y(pixelsOf(view, visibleChange(level), level.proposed / bias))}
                            r="2.5"
                            fill={`var(--curve-${level.index})`}
                          />
                        )}
                        <circle cx={x(metres)} cy={place} r="11" fill="transparent" />
                        <circle
                          cx={x(metres)}
                          cy={place}
                          r={isHeld ? 7 : 5.5}
                          fill="var(--sheet)"
                          stroke={`var(--curve-${level.index})`}
                          strokeWidth="2.5"
                        />
                        {(label || isHeld) && (
                          <Label
                            at={x(metres)}
                            y={place}
                            side={label?.side ?? "right"}
                            name={namesAt(isHeld || !label ? level.index : label.first, level.index)}
                            words={`${inMetres(metres)}${isHeld || own(level) ? ` · ${pixels(cost)}` : ""}`}
                          />
                        )}
                      </g>
                    );
                  }}
                />
              ))}
            <You
              eye={eye}
              x={x}
              top={PAD.top}
              bottom={PAD.top + room}
              words={(distance) => nameOf(drawnAt(switches, distance))}
            />
          </svg>
        ) : (
          <p className="grid h-full place-items-center text-quiet">there are no levels below LOD0 to compare</p>
        )}
      </div>
    </div>
  );
}

/** The next 1, 2 or 5 of a power of ten below. */
function roundDown(value: number): number {
  const power = 10 ** Math.floor(Math.log10(value));
  return (value >= 5 * power ? 5 : value >= 2 * power ? 2 : 1) * power;
}

/** Whether a state has this level of the base, where its switch is proposed and not chosen. */
function isOfBase(level: Level): boolean {
  return level.target < 0;
}

function nameOf(level: number): string {
  return level < 0 ? "not drawn" : `LOD${level}`;
}

function Label({
  at,
  y,
  side,
  name,
  words,
}: {
  at: number;
  y: number;
  side: SwitchLabel["side"];
  name: string;
  words: string;
}) {
  const anchor = side === "left" ? "end" : undefined;
  const place = side === "left" ? at - 10 : at + 10;
  const down = side === "below" ? 30 : 0;
  return (
    <>
      <Words x={place} y={y - 7 + (down && down + 7)} text={name} anchor={anchor} strong />
      <Words x={place} y={y + 15 + down} text={words} anchor={anchor} />
    </>
  );
}

function Words({
  x,
  y,
  text,
  anchor,
  strong,
}: {
  x: number;
  y: number;
  text: string;
  anchor?: "end";
  strong?: boolean;
}) {
  return (
    <text
      x={x}
      y={y}
      textAnchor={anchor}
      fontSize={strong ? 12 : 11}
      fontWeight={strong ? 600 : undefined}
      className={strong ? undefined : "figure"}
      fill={strong ? "var(--ink)" : "var(--quiet)"}
      stroke="var(--sheet)"
      strokeWidth="3"
      paintOrder="stroke"
    >
      {text}
    </text>
  );
}

/** The viewer's own distance, which changes with every frame of the view. */
function You({
  eye,
  x,
  top,
  bottom,
  words,
}: {
  eye: EyeStore;
  x: (metres: number) => number;
  top: number;
  bottom: number;
  words: (distance: number) => string;
}) {
  const { distance } = useEye(eye);
  return (
    <g pointerEvents="none">
      <line x1={x(distance)} x2={x(distance)} y1={top} y2={bottom} stroke="var(--ink)" strokeWidth="1.5" />
      <text
        x={x(distance) + 6}
        y={top - 6}
        fontSize="11.5"
        fill="var(--ink)"
        stroke="var(--sheet)"
        strokeWidth="3"
        paintOrder="stroke"
      >
        you · {inMetres(distance)} · {words(distance)}
      </text>
    </g>
  );
}

interface HandleProps {
  label: string;
  metres: number;
  from: number;
  to: number;
  metresAt: (clientX: number) => number;
  onCommit: (metres: number) => void;
  draw: (metres: number, isHeld: boolean) => React.ReactNode;
}

/** A distance that is dragged along the chart or moved with the arrows; it is decided when it is let go. */
function Handle({ label, metres, from, to, metresAt, onCommit, draw }: HandleProps) {
  const [held, setHeld] = useState<number | null>(null);
  const latest: RefObject<number | null> = useRef(null);
  const waiting = useRef<ReturnType<typeof setTimeout> | undefined>(undefined);
  useEffect(() => setHeld(null), [metres]);
  useEffect(() => () => clearTimeout(waiting.current), []);
  const shown = held ?? metres;
  const move = (next: number) => {
    latest.current = Math.min(Math.max(next, from), to);
    setHeld(latest.current);
  };
  const commit = () => {
    if (latest.current !== null && latest.current !== metres) onCommit(latest.current);
    latest.current = null;
  };
  const onKey = (event: KeyboardEvent) => {
    const factor = { ArrowLeft: 1 / KEY_STEP, ArrowRight: KEY_STEP, PageDown: 0.5, PageUp: 2 }[event.key];
    if (factor === undefined) return;
    event.preventDefault();
    move(shown * factor);
    // Held keys are one decision.
    clearTimeout(waiting.current);
    waiting.current = setTimeout(commit, 400);
  };
  return (
    <g
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuemin={from}
      aria-valuemax={to}
      aria-valuenow={Number(shown.toPrecision(3))}
      aria-valuetext={inMetres(shown)}
      onKeyDown={onKey}
      onPointerDown={(event: PointerEvent<SVGGElement>) => event.currentTarget.setPointerCapture(event.pointerId)}
      onPointerMove={(event) => event.currentTarget.hasPointerCapture(event.pointerId) && move(metresAt(event.clientX))}
      onPointerUp={commit}
      style={{ cursor: "ew-resize", touchAction: "none" }}
    >
      {draw(shown, held !== null)}
    </g>
  );
}
