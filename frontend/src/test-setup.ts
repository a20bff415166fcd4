import { configure } from "@testing-library/dom";

// A busy machine is no fault.
configure({ asyncUtilTimeout: 20_000 });

class NoResizeObserver {
  observe() {}
  unobserve() {}
  disconnect() {}
}
globalThis.ResizeObserver = NoResizeObserver;
