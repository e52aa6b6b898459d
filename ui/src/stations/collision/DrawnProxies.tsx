import { useEffect, useMemo } from "react";
import { DoubleSide, EdgesGeometry, Group, LineBasicMaterial, LineSegments, Mesh, MeshBasicMaterial } from "three";

const [PLAIN, CHOSEN] = ["#2f6f91", "#a81e6e"];
/** Edges flatter than this many degrees are not drawn. */
const FLAT = 1;

/** Proxies as glass over the prop, with their edges; the chosen one in the colour of what is in hand. */
export function DrawnProxies({ proxies, selected }: { proxies: Mesh[]; selected: number | null }) {
  const group = useMemo(() => {
    const whole = new Group();
    proxies.forEach(({ geometry }, k) => {
      const color = k === selected ? CHOSEN : PLAIN;
      const glass = new MeshBasicMaterial({
        color,
        transparent: true,
        opacity: k === selected ? 0.35 : 0.16,
        depthWrite: false,
        side: DoubleSide,
      });
      const edges = new LineSegments(
        new EdgesGeometry(geometry, FLAT),
        new LineBasicMaterial({ color, transparent: true, opacity: 0.9 }),
      );
      edges.renderOrder = 4;
      whole.add(new Mesh(geometry, glass), edges);
    });
    return whole;
  }, [proxies, selected]);
  useEffect(
    () => () => {
      for (const child of group.children as (Mesh | LineSegments)[]) {
        if (child instanceof LineSegments) child.geometry.dispose();
        (child.material as MeshBasicMaterial).dispose();
      }
    },
    [group],
  );
  return <primitive object={group} dispose={null} />;
}
