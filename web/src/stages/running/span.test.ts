import { describe, expect, it } from "vitest";
import { clamped, moved, zoomed } from "./span";

const WHOLE = { begin: 0, end: 10_000 };

describe("a window of time", () => {
  it("is zoomed round the finger", () => {
    expect(zoomed(WHOLE, 0.5, 0.25)).toEqual({ begin: 1250, end: 6250 });
    expect(zoomed(zoomed(WHOLE, 0.5, 0.3), 2, 0.3)).toEqual(WHOLE);
  });

  it("never leaves the whole, and keeps its width there", () => {
    expect(clamped(moved({ begin: 8000, end: 9000 }, 3), WHOLE)).toEqual({ begin: 9000, end: 10_000 });
    expect(clamped(moved({ begin: 500, end: 1500 }, -3), WHOLE)).toEqual({ begin: 0, end: 1000 });
    expect(clamped(zoomed(WHOLE, 4, 0.5), WHOLE)).toEqual(WHOLE);
  });

  it("is never narrower than a minute", () => {
    const { begin, end } = clamped({ begin: 5000, end: 5001 }, WHOLE);
    expect(end - begin).toBe(60);
  });
});
