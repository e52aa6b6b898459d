import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import { BufferAttribute, BufferGeometry, LineBasicMaterial, LineSegments, type Object3D } from "three";
import { LineMaterial } from "three/addons/lines/LineMaterial.js";
import { LineSegments2 } from "three/addons/lines/LineSegments2.js";
import { LineSegmentsGeometry } from "three/addons/lines/LineSegmentsGeometry.js";

import { useDrawn } from "./useDrawn";

interface LinesProps {
  /** Six numbers a segment. */
  points: Float32Array;
  color: string;
  /** In pixels; above 1 the lines are drawn as ribbons. */
  width?: number;
  opacity?: number;
  /** Drawn through the surface. */
  through?: boolean;
  /** Shown only while this is: one side of the split. */
  within?: Object3D | null;
}

/** Segments on the model. */
export function Lines({ points, color, width = 1, opacity = 1, through = false, within = null }: LinesProps) {
  const size = useThree((state) => state.size);
  const drawn = useMemo(() => {
    if (!points.length) return null;
    if (width > 1) {
      const material = new LineMaterial({ color, linewidth: width, transparent: true, opacity, depthTest: !through });
      const lines = new LineSegments2(new LineSegmentsGeometry().setPositions(points), material);
      lines.renderOrder = through ? 9 : 3;
      return lines;
    }
    const geometry = new BufferGeometry().setAttribute("position", new BufferAttribute(points, 3));
    const lines = new LineSegments(
      geometry,
      new LineBasicMaterial({ color, transparent: true, opacity, depthTest: !through, depthWrite: false }),
    );
    lines.renderOrder = through ? 9 : 3;
    return lines;
  }, [points, color, width, opacity, through]);
  useEffect(() => {
    if (drawn instanceof LineSegments2) drawn.material.resolution.set(size.width, size.height);
  }, [drawn, size]);
  useDrawn(drawn, within);
  return null;
}
