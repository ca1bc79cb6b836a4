import { afterEach, describe, expect, it, vi } from "vitest";
import { PAGE, sinceS, stopwatch, watchedHere } from "./clock";

const AT = "2026-01-12T06:00:00Z";

afterEach(() => vi.useRealTimers());

describe("time at the unit", () => {
  it("goes by the page's own clock where this page saw it begin, whatever the device's is set to", () => {
    vi.useFakeTimers({ now: new Date("2026-01-11T06:00:00Z") });
    vi.spyOn(performance, "now").mockReturnValue(700_000);
    expect(sinceS({ at: AT, page: PAGE, page_s: 100 })).toBe(600);
    vi.setSystemTime(new Date("2026-01-13T06:00:00Z"));
    expect(sinceS({ at: AT, page: PAGE, page_s: 100 })).toBe(600);
  });

  it("goes by the device's clock where another page saw it begin, and a step back is no time", () => {
    vi.useFakeTimers({ now: new Date("2026-01-12T06:10:00Z") });
    const begun = { at: AT, page: "another", page_s: 5 };
    expect(sinceS(begun)).toBe(600);
    vi.setSystemTime(new Date("2026-01-11T06:00:00Z"));
    expect(sinceS(begun)).toBe(0);
    expect(sinceS({ at: null, page: "", page_s: null })).toBe(0);
  });

  it("knows whether this page watched it", () => {
    expect(watchedHere({ at: AT, page: PAGE, page_s: 1 })).toBe(true);
    expect(watchedHere({ at: AT, page: "another", page_s: 1 })).toBe(false);
    expect(watchedHere({ at: null, page: PAGE, page_s: 1 })).toBe(false);
  });

  it("is written as a stopwatch shows it", () => {
    expect([0, 59.9, 60, 605, -3].map(stopwatch)).toEqual(["0:00", "0:59", "1:00", "10:05", "0:00"]);
  });
});
