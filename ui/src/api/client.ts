import createClient from "openapi-fetch";

import type { components, paths } from "./schema";

export type PropRow = components["schemas"]["PropRow"];
export type PropDetail = components["schemas"]["PropDetail"];
export type Finding = components["schemas"]["FindingOut"];
export type Level = components["schemas"]["LevelFacts"];
export type Shipment = components["schemas"]["ShipmentOut"];
export type Severity = Finding["severity"];
export type Readiness = PropRow["readiness"];

export const client = createClient<paths>({ baseUrl: "/" });

/** The token without which the server takes no change, as it came with the page. */
export function token(): string {
  return /(?:^|; )csrftoken=([^;]*)/.exec(document.cookie)?.[1] ?? "";
}

client.use({
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-CSRFToken", token());
    return request;
  },
});

/** An answer of the server that says in one sentence why something did not work. */
export class ServerProblem extends Error {}

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The data of an answer; throws `ServerProblem` with the server's own sentence. */
export function take<T>({ data, error, response }: Answer<T>): T {
  if (response.ok && data !== undefined) return data;
  const detail = (error as { detail?: unknown } | undefined)?.detail;
  throw new ServerProblem(typeof detail === "string" ? detail : `the server answered ${response.status}; try again`);
}

/** The prop of an answer; the client's own types know no tuples. */
export function takeProp<T>(answer: Answer<T>): PropDetail {
  return take(answer) as PropDetail;
}
