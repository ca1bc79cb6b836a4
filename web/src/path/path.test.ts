import { describe, expect, it } from "vitest";
import { height } from "./scale";

describe("the scale of the staircase", () => {
  const scale = { least_pa: -500, straight_to_pa: 4000, most_pa: 1_600_000, straight_share: 0.6 };
  it("rises all the way from a slight vacuum to tank pressure, straight where the windows are", () => {
    const heights = [-300, 0, 1000, 2000, 4000, 5000, 69_000, 1_000_000].map((pa) => height(pa, scale));
    expect([...heights].sort((a, b) => a - b)).toEqual(heights);
    expect(new Set(heights).size).toBe(heights.length);
    expect(height(3000, scale) - height(2000, scale)).toBeCloseTo(height(2000, scale) - height(1000, scale), 12);
    expect(height(-1e9, scale)).toBe(0);
    expect(height(1e9, scale)).toBe(1);
  });
});
