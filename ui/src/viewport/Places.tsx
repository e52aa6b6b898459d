import { useMemo } from "react";
import { BufferAttribute, BufferGeometry, DoubleSide } from "three";

import type { Finding } from "../api/client";
import { useTheme } from "../app/theme";

type PlacesOf = NonNullable<Finding["places"]>;

/** The places of a finding on the model: vertices as dots, edges as lines, triangles as patches; seen through it. */
export function PlacesDrawn({ places }: { places: PlacesOf }) {
  const night = useTheme() === "night";
  const color = night ? "#f06bb5" : "#a81e6e";
  const geometry = useMemo(() => {
    const flat = new Float32Array(places.points.flat(2));
    return new BufferGeometry().setAttribute("position", new BufferAttribute(flat, 3));
  }, [places]);
  const corners = useMemo(() => {
    const middles = places.points.map((place) => [0, 1, 2].map((k) => place.reduce((sum, p) => sum + (p[k] ?? 0), 0) / place.length));
    return new BufferGeometry().setAttribute("position", new BufferAttribute(new Float32Array(middles.flat()), 3));
  }, [places]);
  return (
    <group renderOrder={10}>
      {places.kind === "edges" && (
        <lineSegments geometry={geometry} renderOrder={10}>
          <lineBasicMaterial color={color} depthTest={false} transparent />
        </lineSegments>
      )}
      {places.kind === "triangles" && (
        <mesh geometry={geometry} renderOrder={10}>
          <meshBasicMaterial color={color} depthTest={false} transparent opacity={0.65} side={DoubleSide} />
        </mesh>
      )}
      <points geometry={corners} renderOrder={11}>
        <pointsMaterial color={color} size={places.kind === "vertices" ? 9 : 6} sizeAttenuation={false} depthTest={false} transparent />
      </points>
    </group>
  );
}

/** Middle and radius of a finding's places. */
export function placesSphere(places: PlacesOf): { centre: [number, number, number]; radius: number } {
  const points = places.points.flat();
  const low = [0, 1, 2].map((k) => Math.min(...points.map((p) => p[k] ?? 0)));
  const high = [0, 1, 2].map((k) => Math.max(...points.map((p) => p[k] ?? 0)));
  const centre = low.map((value, k) => (value + (high[k] ?? 0)) / 2) as [number, number, number];
  return { centre, radius: Math.hypot(...low.map((value, k) => ((high[k] ?? 0) - value) / 2)) };
}
