import type { PropDetail } from "../../api/client";
import { count } from "../../parts/format";

export type CollisionFacts = NonNullable<PropDetail["facts"]["collision"]>;
export type ProxyRow = CollisionFacts["proxies"][number];
export type Kind = PropDetail["settings"]["collision"]["kind"];

export const KINDS: { value: Kind; label: string }[] = [
  { value: "none", label: "None" },
  { value: "simple", label: "The least simple shape" },
  { value: "box", label: "Box" },
  { value: "turned-box", label: "Turned box" },
  { value: "ball", label: "Ball" },
  { value: "capsule", label: "Capsule" },
  { value: "hull", label: "One hull" },
  { value: "part-hulls", label: "A hull for each part" },
  { value: "pieces", label: "Convex pieces" },
];
export const SHAPES: Record<ProxyRow["shape"], string> = {
  box: "box",
  "turned-box": "turned box",
  ball: "ball",
  capsule: "capsule",
  hull: "hull",
  mesh: "modelled by hand",
};

/** A volume in litres below a cubic metre, in cubic metres above. */
export function volume(cubicMetres: number): string {
  const litres = 1000 * cubicMetres;
  if (litres >= 1000) return `${cubicMetres.toFixed(2)} m³`;
  return litres >= 1 ? `${litres.toFixed(1)} L` : `${(1000 * litres).toFixed(0)} mL`;
}

/** How many proxies. */
export function proxies(number: number): string {
  return number === 1 ? "1 proxy" : `${count(number)} proxies`;
}

/** How the proxies fit, in one sentence. */
export function fitOf({ added, missed }: CollisionFacts): string {
  const beside =
    added >= 0 ? `add ${count(Math.round(100 * added))} % to` : `leave ${count(Math.round(-100 * added))} % of`;
  const outside = missed < 5e-5 ? "none" : `${(100 * missed).toFixed(2)} %`;
  return `Together they ${beside} the prop's volume; ${outside} of its surface lies outside.`;
}
