import { useMemo } from "react";
import { BufferAttribute, BufferGeometry, type Box3, DoubleSide, Shape, ShapeGeometry } from "three";

import { useTheme } from "../app/theme";

/** A grid cell that suits a prop: 1, 2 or 5 times a power of ten, in metres. */
export function gridCell(extent: number): number {
  const rough = extent / 4;
  const power = 10 ** Math.floor(Math.log10(rough));
  return [1, 2, 5, 10].map((factor) => factor * power).find((cell) => cell >= rough) ?? power * 10;
}

/** The floor as a chart: thin lines at real metres, every fifth stronger. */
export function ChartGrid({ bounds, cell }: { bounds: Box3; cell: number }) {
  const night = useTheme() === "night";
  const [thin, strong] = useMemo(() => {
    const middleX = Math.round((bounds.min.x + bounds.max.x) / 2 / cell) * cell;
    const middleZ = Math.round((bounds.min.z + bounds.max.z) / 2 / cell) * cell;
    const lines: [number[], number[]] = [[], []];
    // One segment a cell: some drivers drop long lines that pass behind the eye.
    for (let i = -15; i <= 15; i += 1) {
      const target = i % 5 === 0 ? lines[1] : lines[0];
      for (let j = -15; j < 15; j += 1) {
        target.push(middleX + i * cell, 0, middleZ + j * cell, middleX + i * cell, 0, middleZ + (j + 1) * cell);
        target.push(middleX + j * cell, 0, middleZ + i * cell, middleX + (j + 1) * cell, 0, middleZ + i * cell);
      }
    }
    return lines.map((points) =>
      new BufferGeometry().setAttribute("position", new BufferAttribute(new Float32Array(points), 3)),
    );
  }, [bounds, cell]);
  return (
    <>
      <lineSegments geometry={thin}>
        <lineBasicMaterial color={night ? "#24344e" : "#ddd7c6"} />
      </lineSegments>
      <lineSegments geometry={strong}>
        <lineBasicMaterial color={night ? "#35486a" : "#c9c1ac"} />
      </lineSegments>
    </>
  );
}

const FIGURE_HEIGHT = 1.8;

/** Half of a standing person's outline, from the sole up: width from the middle, height, in metres. */
const OUTLINE: [number, number][] = [
  [0.03, 0.0],
  [0.15, 0.0],
  [0.15, 0.04],
  [0.11, 0.08],
  [0.12, 0.3],
  [0.135, 0.5],
  [0.13, 0.72],
  [0.16, 0.88],
  [0.235, 0.8],
  [0.26, 0.82],
  [0.265, 1.0],
  [0.25, 1.2],
  [0.235, 1.38],
  [0.2, 1.45],
  [0.08, 1.5],
  [0.062, 1.54],
  [0.085, 1.6],
  [0.092, 1.68],
  [0.08, 1.755],
  [0.045, 1.793],
  [0.0, 1.8],
];

/** A person of 1.8 m, flat like a cut-out, beside the prop and turned to the eye's usual side. */
export function StandingFigure({ bounds }: { bounds: Box3 }) {
  const geometry = useMemo(() => {
    const points = [
      ...OUTLINE,
      ...OUTLINE.slice(0, -1)
        .reverse()
        .map(([x, y]): [number, number] => [-x, y]),
    ];
    const shape = new Shape();
    points.forEach(([x, y], i) => (i === 0 ? shape.moveTo(x, y) : shape.lineTo(x, y)));
    shape.lineTo(0, 0.74);
    shape.closePath();
    return new ShapeGeometry(shape);
  }, []);
  const night = useTheme() === "night";
  const gap = Math.max(0.4, (bounds.max.x - bounds.min.x) * 0.15);
  return (
    <mesh
      geometry={geometry}
      position={[bounds.min.x - gap, 0, (bounds.min.z + bounds.max.z) / 2]}
      rotation={[0, 0.72, 0]}
    >
      <meshBasicMaterial color={night ? "#9aa7bd" : "#56627a"} transparent opacity={0.55} side={DoubleSide} />
    </mesh>
  );
}

/** Radius and middle of the prop together with the standing figure. */
export function withFigure(bounds: Box3): Box3 {
  const gap = Math.max(0.4, (bounds.max.x - bounds.min.x) * 0.15);
  const wider = bounds.clone();
  wider.expandByPoint(
    wider.min
      .clone()
      .setX(bounds.min.x - gap - 0.3)
      .setY(0),
  );
  wider.expandByPoint(wider.max.clone().setX(bounds.min.x).setY(FIGURE_HEIGHT));
  return wider;
}
