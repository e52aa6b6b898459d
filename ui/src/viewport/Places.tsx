import { useMemo } from "react";
import { Box3, BufferAttribute, BufferGeometry, DoubleSide, Vector3 } from "three";

import type { Finding } from "../api/client";
import { useTheme } from "../app/theme";

type PlacesOf = NonNullable<Finding["places"]>;

/** One of a finding's places alone, to be led to; all of them where `index` is null. */
export function placesAt(places: PlacesOf, index: number | null): PlacesOf {
  const one = index === null ? undefined : places.points[index];
  return one ? { ...places, points: [one] } : places;
}

/** The places of a finding on the model: vertices as dots, edges as lines, triangles as patches; seen through it. */
export function PlacesDrawn({ places }: { places: PlacesOf }) {
  const night = useTheme() === "night";
  const color = night ? "#f06bb5" : "#a81e6e";
  const geometry = useMemo(() => {
    const flat = new Float32Array(places.points.flat(2));
    return new BufferGeometry().setAttribute("position", new BufferAttribute(flat, 3));
  }, [places]);
  const corners = useMemo(() => {
    const middles = places.points.map((place) =>
      [0, 1, 2].map((k) => place.reduce((sum, p) => sum + (p[k] ?? 0), 0) / place.length),
    );
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
        <pointsMaterial
          color={color}
          size={places.kind === "vertices" ? 9 : 6}
          sizeAttenuation={false}
          depthTest={false}
          transparent
        />
      </points>
    </group>
  );
}

/** The box around a finding's places, at least `least` metres to each side of its middle. */
export function placesBox(places: PlacesOf, least: number): Box3 {
  const box = new Box3();
  for (const [x = 0, y = 0, z = 0] of places.points.flat()) box.expandByPoint(new Vector3(x, y, z));
  const middle = box.getCenter(new Vector3());
  return box.union(new Box3(middle.clone().subScalar(least), middle.clone().addScalar(least)));
}
