/** A server for tests of views: what it answers to each request, and what was asked of it. */

type Answer = (body: unknown, address: URL) => unknown;

export interface Asked {
  method: string;
  path: string;
  body: unknown;
}

let answers: Record<string, Answer> = {};
let asked: Asked[] = [];

/** A refusal with its sentence, and what else it tells, thrown by an answer. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly more: object = {},
  ) {
    super(message);
  }
}

/** Answers by "METHOD /path", added to those there are. */
export function serve(more: Record<string, unknown>): void {
  for (const [request, value] of Object.entries(more))
    answers[request] = typeof value === "function" ? (value as Answer) : () => value;
}

/** What was asked so far with this method. */
export const askedBy = (method: string): Asked[] => asked.filter((one) => one.method === method);

export function forgetAnswers(): void {
  answers = {};
  asked = [];
}

const json = (value: unknown, status = 200): Response =>
  new Response(JSON.stringify(value), { status, headers: { "Content-Type": "application/json" } });

export async function answerFetch(input: Request | string): Promise<Response> {
  const request = typeof input === "string" ? new Request(input) : input;
  const address = new URL(request.url);
  const text = await request.text();
  const body: unknown = text ? JSON.parse(text) : undefined;
  asked.push({ method: request.method, path: address.pathname, body });
  const answer = answers[`${request.method} ${address.pathname}`];
  if (!answer) return json({ detail: `the test has no answer to ${request.method} ${address.pathname}` }, 404);
  try {
    const value = await answer(body, address);
    return ArrayBuffer.isView(value) ? new Response(value as Uint8Array<ArrayBuffer>) : json(value);
  } catch (problem) {
    if (problem instanceof Refusal) return json({ detail: problem.message, ...problem.more }, problem.status);
    throw problem;
  }
}
