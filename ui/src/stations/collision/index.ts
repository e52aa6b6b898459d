import type { Station } from "../station";
import { OpenCollision } from "./OpenCollision";
import { proxies as counted, SHAPES } from "./words";

export const COLLISION: Station = {
  name: "collision",
  title: "Collision",
  summary: ({ facts }) => {
    const proxies = facts.collision?.proxies ?? [];
    const [first] = proxies;
    if (!first) return "none";
    return proxies.length === 1 ? SHAPES[first.shape] : counted(proxies.length);
  },
  keys: [
    ["B", "drop a ball on the collision"],
    ["W", "push a walker against it"],
  ],
  Open: OpenCollision,
};
