import { cleanup } from "@testing-library/react";
import { afterEach, vi } from "vitest";

import { answerFetch, forgetAnswers } from "./server";

// What a browser has and the stand-in for one lacks.
class NoResizes {
  observe = () => undefined;
  unobserve = () => undefined;
  disconnect = () => undefined;
}
/** A page has an address, against which it resolves others. */
class PageRequest extends Request {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === "string" ? new URL(input, "http://plindro.test") : input, init);
  }
}
vi.stubGlobal("ResizeObserver", NoResizes);
vi.stubGlobal("Request", PageRequest);
vi.stubGlobal("fetch", answerFetch);
Element.prototype.scrollIntoView = () => undefined;
Element.prototype.hasPointerCapture = () => false;

afterEach(() => {
  cleanup();
  forgetAnswers();
});
