import { useFrame, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef } from "react";
import { CapsuleGeometry, Group, Mesh, MeshLambertMaterial, SphereGeometry } from "three";

import { type PlayWorld, RATE, WALKER } from "./physics";

const BALL = new MeshLambertMaterial({ color: "#a81e6e", emissive: "#a81e6e", emissiveIntensity: 0.25 });
const BODY = new MeshLambertMaterial({
  color: "#14233c",
  emissive: "#14233c",
  emissiveIntensity: 0.3,
  transparent: true,
  opacity: 0.35,
  depthWrite: false,
});
const ROUND = new SphereGeometry(1, 24, 16);
const UPRIGHT = new CapsuleGeometry(WALKER.radius, WALKER.height - 2 * WALKER.radius, 6, 16);
/** Steps that a late frame may catch up with. */
const MOST_STEPS = 6;

/** Draws the balls and the walker, step by step for as long as anything moves. */
export function Play({ world, onSaid }: { world: PlayWorld; onSaid: (said: string) => void }) {
  const invalidate = useThree((state) => state.invalidate);
  const group = useMemo(() => new Group(), []);
  const late = useRef(0);
  // What is thrown in between is seen by a clock of its own: the view draws only when it is asked to.
  useEffect(() => {
    const clock = setInterval(() => world.isMoving && invalidate(), 1000 / RATE);
    return () => clearInterval(clock);
  }, [world, invalidate]);
  useFrame((_, seconds) => {
    if (!world.isMoving) return;
    late.current = Math.min(late.current + seconds * RATE, MOST_STEPS);
    for (; late.current >= 1; late.current--) {
      const said = world.step();
      if (said) onSaid(said);
    }
    place(group, world);
  });
  return <primitive object={group} dispose={null} />;
}

/** Brings the drawn bodies to where they are in the world. */
function place(group: Group, { balls, walker }: PlayWorld): void {
  const wanted = balls.length + (walker ? 1 : 0);
  while (group.children.length < wanted) group.add(new Mesh(ROUND, BALL));
  while (group.children.length > wanted) group.remove(group.children[group.children.length - 1] as Mesh);
  const meshes = group.children as Mesh[];
  [
    ...balls.map(({ body, radius }) => ({ body, radius })),
    ...(walker ? [{ body: walker.body, radius: 1 }] : []),
  ].forEach(({ body, radius }, k) => {
    const mesh = meshes[k];
    if (!mesh) return;
    const isBall = k < balls.length;
    mesh.geometry = isBall ? ROUND : UPRIGHT;
    mesh.material = isBall ? BALL : BODY;
    const { x, y, z } = body.translation();
    mesh.position.set(x, y, z);
    mesh.scale.setScalar(radius);
  });
}
