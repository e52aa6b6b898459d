import { scaleLinear, scaleSymlog } from "d3-scale";
import { type KeyboardEvent, type PointerEvent, useRef } from "react";

import type { PropDetail } from "../../api/client";
import { count } from "../../parts/format";
import { Heading } from "../../parts/Heading";
import { useRested } from "../../parts/useRested";
import { useSize } from "../../parts/useSize";

interface EdgeAnglesProps {
  prop: PropDetail;
  angle: number;
  onAngle: (angle: number) => void;
  onCommit: (angle: number) => void;
  /** Counted on the surface as it is drawn; null while that is not there. */
  liveCost: number | null;
  liveHard: number | null;
  /** Engine vertices that the hard edges add. */
  hardCost: number | null;
}

const PAD = { left: 52, right: 92, top: 14, bottom: 22 };

/** Edges by their fold, the threshold as a handle among them, and over it the engine vertices that it costs. */
export function EdgeAngles({ prop, angle, onAngle, onCommit, liveCost, liveHard, hardCost }: EdgeAnglesProps) {
  const { ref, width, height } = useSize<HTMLDivElement>();
  const drag = useRef({ from: angle, at: angle });
  const bins = prop.facts.normals?.edge_angles ?? [];
  const curve = prop.facts.normals?.cost ?? [];
  const inner = {
    width: Math.max(width - PAD.left - PAD.right, 50),
    height: Math.max(height - PAD.top - PAD.bottom, 30),
  };
  const x = scaleLinear([0, 180], [PAD.left, PAD.left + inner.width]).clamp(true);
  const barTop = scaleSymlog([0, Math.max(...bins, 1)], [PAD.top + inner.height, PAD.top]);
  const costs = curve.map(({ vertices }) => vertices);
  const [low, high] = [Math.min(...costs), Math.max(...costs)];
  const costY = scaleLinear(high > low ? [low, high] : [low, low + 1], [
    PAD.top + inner.height,
    PAD.top + 0.08 * inner.height,
  ]);
  const cost = interpolate(curve, angle);
  const hard = liveHard ?? bins.slice(Math.floor(angle)).reduce((sum, number) => sum + number, 0);
  const words =
    liveCost !== null
      ? ` · ${count(liveCost)} engine vertices, ${count(hardCost ?? 0)} for them`
      : cost === null
        ? ""
        : ` · ≈ ${count(cost)} engine vertices`;

  const move = (event: PointerEvent<SVGGElement>) => {
    if (!event.currentTarget.hasPointerCapture(event.pointerId) || !ref.current) return;
    const at = event.clientX - ref.current.getBoundingClientRect().left;
    drag.current.at = Math.round(x.invert(at));
    onAngle(drag.current.at);
  };
  // A press that moves nothing decides nothing.
  const release = () => drag.current.at !== drag.current.from && onCommit(drag.current.at);
  const keys = useRested((next) => next !== prop.settings.normals.angle && onCommit(next));
  const onKey = (event: KeyboardEvent) => {
    const step = { ArrowLeft: -1, ArrowRight: 1, PageDown: -10, PageUp: 10 }[event.key];
    if (step === undefined) return;
    event.preventDefault();
    const next = Math.min(Math.max(angle + step, 0), 180);
    onAngle(next);
    keys.rest(next);
  };
  return (
    <div className="flex h-full flex-col">
      <Heading
        question="Which edges are hard?"
        reading="Bars: edges by how far they fold (log scale). Line: engine vertices if all edges above the angle were hard. Drag the handle."
      />
      <div ref={ref} className="relative min-h-0 grow">
        <svg width={width} height={height} className="absolute inset-0" role="presentation">
          {x.ticks(7).map((degrees) => (
            <g key={degrees}>
              <line x1={x(degrees)} x2={x(degrees)} y1={PAD.top} y2={PAD.top + inner.height} stroke="var(--rule)" />
              <text
                x={x(degrees)}
                y={height - 6}
                textAnchor="middle"
                className="figure"
                fontSize="11"
                fill="var(--quiet)"
              >
                {degrees}°
              </text>
            </g>
          ))}
          {bins.map((number, degrees) =>
            number > 0 ? (
              <rect
                key={degrees}
                x={x(degrees) + 0.5}
                y={barTop(number)}
                width={Math.max(inner.width / 180 - 1, 1)}
                height={PAD.top + inner.height - barTop(number)}
                fill={degrees >= angle ? "var(--lod-5)" : "var(--lod-2)"}
              />
            ) : null,
          )}
          {curve.length > 1 && high > low && (
            <polyline
              points={curve.map(({ angle: at, vertices }) => `${x(at)},${costY(vertices)}`).join(" ")}
              fill="none"
              stroke="var(--ink)"
              strokeWidth="1.5"
            />
          )}
          {curve.length > 1 &&
            (high > low ? [low, high] : [low]).map((value) => (
              <text
                key={value}
                x={width - PAD.right + 6}
                y={costY(value) + 4}
                className="figure"
                fontSize="11"
                fill="var(--quiet)"
              >
                {count(value)} verts
              </text>
            ))}
          <text x={PAD.left - 8} y={PAD.top + 8} textAnchor="end" className="figure" fontSize="11" fill="var(--quiet)">
            {count(Math.max(...bins, 0))}
          </text>
          <g
            role="slider"
            tabIndex={0}
            aria-label="Hard above, in degrees"
            aria-valuemin={0}
            aria-valuemax={180}
            aria-valuenow={angle}
            onKeyDown={onKey}
            onPointerDown={(event) => {
              drag.current = { from: angle, at: angle };
              event.currentTarget.setPointerCapture(event.pointerId);
            }}
            onPointerMove={move}
            onPointerUp={release}
            onPointerCancel={() => onAngle(drag.current.from)}
            onBlur={keys.flush}
            style={{ cursor: "ew-resize", touchAction: "none" }}
          >
            <rect x={x(angle) - 9} y={PAD.top} width="18" height={inner.height} fill="transparent" />
            <line
              x1={x(angle)}
              x2={x(angle)}
              y1={PAD.top}
              y2={PAD.top + inner.height}
              stroke="var(--mark)"
              strokeWidth="1.5"
            />
            <circle
              cx={x(angle)}
              cy={cost === null ? PAD.top + 12 : costY(cost)}
              r="6"
              fill="var(--sheet)"
              stroke="var(--mark)"
              strokeWidth="2.5"
            />
          </g>
          <text
            x={x(angle) + (angle > 130 ? -12 : 12)}
            y={PAD.top + 10}
            textAnchor={angle > 130 ? "end" : "start"}
            fontSize="12"
            fill="var(--ink)"
            className="figure"
            stroke="var(--sheet)"
            strokeWidth="4"
            paintOrder="stroke"
          >
            {angle}° · {count(hard)} hard edges{words}
          </text>
        </svg>
      </div>
    </div>
  );
}

/** The curve's value at an angle, between its samples; null where there is no curve. */
function interpolate(curve: { angle: number; vertices: number }[], angle: number): number | null {
  for (let i = 1; i < curve.length; i += 1) {
    const [a, b] = [curve[i - 1], curve[i]];
    if (a && b && angle <= b.angle)
      return a.vertices + ((angle - a.angle) / (b.angle - a.angle)) * (b.vertices - a.vertices);
  }
  return null;
}
