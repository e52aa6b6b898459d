import { type Descent, stepOfTriangles } from "../../surface/descent";

/** By the logarithm of a level's triangles, that of how many times more engine vertices it has than the descent counts. */
interface Split {
  place: number;
  more: number;
}

/** What shading and the destination's tangents split in the built levels, the coarsest first. */
export function splitsOf(descent: Descent, built: readonly { triangles: number; vertices: number }[]): Split[] {
  return built
    .filter(({ triangles, vertices }) => triangles > 0 && vertices > 0)
    .map(({ triangles, vertices }) => ({
      place: Math.log(triangles),
      more: Math.log(vertices / Math.max(descent.verticesAt[stepOfTriangles(descent, triangles)]!, 1)),
    }))
    .sort((a, b) => a.place - b.place);
}

/** About how many engine vertices a level has at a step: those of the descent's corners, split as in the levels beside it. */
export function verticesNear(descent: Descent, step: number, known: readonly Split[]): number {
  const own = descent.verticesAt[step]!;
  const place = Math.log(Math.max(descent.trianglesAt[step]!, 1));
  const above = known.find((one) => one.place >= place) ?? known.at(-1);
  const below = known.findLast((one) => one.place <= place) ?? known[0];
  if (!above || !below) return own;
  const share = above.place > below.place ? (place - below.place) / (above.place - below.place) : 0;
  return Math.round(own * Math.exp(below.more + share * (above.more - below.more)));
}
