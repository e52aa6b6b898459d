import { expect, test } from "vitest";

import { ServerProblem, take } from "./client";

const answer = (status: number, error?: unknown) => ({ response: new Response(null, { status }), error });

test("an answer gives its data, or the server's own sentence", () => {
  expect(take({ data: { id: 3 }, response: new Response(null, { status: 200 }) })).toEqual({ id: 3 });
  expect(() => take(answer(422, { detail: "crate.obj holds no triangles" }))).toThrow("crate.obj holds no triangles");
  expect(() => take(answer(404, { detail: "no prop has this number" }))).toThrow(ServerProblem);
});

test("a server that breaks without a sentence ends in a sentence", () => {
  for (const error of [undefined, "<html>", {}, { detail: [{ loc: ["a"] }] }])
    expect(() => take(answer(500, error)), JSON.stringify(error)).toThrow("the server answered 500; try again");
});
