import { cleanup, configure } from "@testing-library/react";
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
// Asking for each element whether it can be seen takes most of a test's time, and no style sheet is there to hide one.
// What a test waits for may come late where others share the processor.
configure({ defaultHidden: true, asyncUtilTimeout: 10_000 });
Element.prototype.scrollIntoView = () => undefined;
Element.prototype.hasPointerCapture = () => false;

afterEach(() => {
  cleanup();
  forgetAnswers();
});
