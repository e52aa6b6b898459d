import { cleanup } from "@testing-library/react";
import { afterEach, vi } from "vitest";

// What a browser has and the stand-in for one lacks.
class NoResizes {
  observe = () => undefined;
  unobserve = () => undefined;
  disconnect = () => undefined;
}
vi.stubGlobal("ResizeObserver", NoResizes);

afterEach(cleanup);
