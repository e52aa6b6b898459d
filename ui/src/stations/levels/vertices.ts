import { type Descent, stepOfTriangles } from "../../surface/descent";

/**
 * About how many engine vertices a level has at a step. The descent counts those of its own corners; shading and the
 * destination's tangents split more, about as many as in the built levels on either side.
 */
export function verticesNear(
  descent: Descent,
  step: number,
  built: readonly { triangles: number; vertices: number }[],
): number {
  const own = descent.verticesAt[step]!;
  const place = Math.log(Math.max(descent.trianglesAt[step]!, 1));
  const known = built
    .filter(({ triangles, vertices }) => triangles > 0 && vertices > 0)
    .map(({ triangles, vertices }) => ({
      place: Math.log(triangles),
      more: Math.log(vertices / Math.max(descent.verticesAt[stepOfTriangles(descent, triangles)]!, 1)),
    }))
    .sort((a, b) => a.place - b.place);
  const above = known.find((one) => one.place >= place) ?? known.at(-1);
  const below = known.findLast((one) => one.place <= place) ?? known[0];
  if (!above || !below) return own;
  const share = above.place > below.place ? (place - below.place) / (above.place - below.place) : 0;
  return Math.round(own * Math.exp(below.more + share * (above.more - below.more)));
}
