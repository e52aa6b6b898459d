import createClient from "openapi-fetch";

import type { components, paths } from "./schema";

export type { components };

export type PropRow = components["schemas"]["PropRow"];
export type Project = components["schemas"]["ProjectOut"];
export type PropDetail = components["schemas"]["PropDetail"];
export type Finding = components["schemas"]["FindingOut"];
export type Level = components["schemas"]["LevelFacts"];
export type SharedSheet = components["schemas"]["SheetOut"];
export type Shipment = components["schemas"]["ShipmentOut"];
export type ShipmentPreview = components["schemas"]["ShipmentPreview"];
export type Compared = components["schemas"]["ComparedOut"];
export type SeenProp = components["schemas"]["SeenProp"];
export type Engine = components["schemas"]["EngineOut"];
export type EngineAsset = Engine["assets"][number];
export type BoardTextures = components["schemas"]["TexturesOut"];
export type BoardTexture = BoardTextures["textures"][number];
export type Severity = Finding["severity"];
export type Readiness = PropRow["readiness"];

export const client = createClient<paths>({ baseUrl: "/" });

/** The token without which the server takes no change, as it came with the page. */
function token(): string {
  return /(?:^|; )csrftoken=([^;]*)/.exec(document.cookie)?.[1] ?? "";
}

const BROWSER = "plindro-browser";

/** What this browser calls itself, so that the server knows its decisions from those of others. */
function browserName(): string {
  const known = localStorage.getItem(BROWSER);
  if (known) return known;
  const name = Array.from(crypto.getRandomValues(new Uint32Array(4)), (part) => part.toString(36)).join("");
  localStorage.setItem(BROWSER, name);
  return name;
}

/** The headers without which the server takes no change, or does not know whose it is. */
export const ownHeaders = (): Record<string, string> => ({
  "X-CSRFToken": token(),
  "X-Plindro-Browser": browserName(),
});

client.use({
  onRequest({ request }) {
    for (const [name, value] of Object.entries(ownHeaders())) request.headers.set(name, value);
    return request;
  },
});

/** An answer of the server that says in one sentence why something did not work. */
export class ServerProblem extends Error {}

export type StaleRow = components["schemas"]["StaleRowOut"];

/** A decision was refused since another browser decided the same values meanwhile; `version` is what stands now. */
export class Stale extends ServerProblem {
  constructor(
    message: string,
    readonly version: number,
    readonly rows: StaleRow[],
  ) {
    super(message);
  }
}

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** What a refusal says: the server's own sentence, or both sides where another browser decided meanwhile. */
export function problemOf(status: number, body: unknown): ServerProblem {
  const { detail, rows, version } = (body ?? {}) as { detail?: unknown } & Partial<Stale>;
  if (status === 409 && rows && version !== undefined) return new Stale(String(detail), version, rows);
  return new ServerProblem(typeof detail === "string" ? detail : `the server answered ${status}; try again`);
}

/** The data of an answer; throws what `problemOf` tells of a refusal. */
export function take<T>({ data, error, response }: Answer<T>): T {
  if (response.ok && data !== undefined) return data;
  throw problemOf(response.status, error);
}

/** The prop of an answer; the client's own types know no tuples. */
export function takeProp<T>(answer: Answer<T>): PropDetail {
  return take(answer) as PropDetail;
}
