import "./words/words";
import { cleanup } from "@testing-library/react";
import { afterEach } from "vitest";

class NoResize {
  observe() {}
  unobserve() {}
  disconnect() {}
}
globalThis.ResizeObserver = NoResize;
afterEach(cleanup);
