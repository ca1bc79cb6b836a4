import { describe, expect, it } from "vitest";
import { clock, dayAndClock } from "./hour";

const at = (begins: number, after_s: number) => ({ after_s, clock_s: (begins + after_s) % 86_400 });
const EVENING = 18 * 3600;

describe("an hour of a window that may be longer than a day", () => {
  it("is told without a day on the first day, and with it after midnight", () => {
    expect(dayAndClock(at(EVENING, 3600))).toBe("19:00");
    expect(dayAndClock(at(EVENING, 8 * 3600))).toBe("02:00 on day 2");
    expect(dayAndClock(at(EVENING, 7 * 86_400))).toBe("18:00 on day 8");
  });

  it("is rounded to the minute, and its day with it", () => {
    expect(clock(9 * 3600 + 40)).toBe("09:01");
    expect(dayAndClock(at(EVENING, 6 * 3600 - 10))).toBe("00:00 on day 2");
  });
});
