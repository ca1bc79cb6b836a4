import { describe, expect, it } from "vitest";
import type { PathNode } from "../api/client";
import { stairPoints } from "./Staircase";
import { STRAIGHT_TO_PA, height, marks } from "./scale";
import { inlets, wayTo } from "./way";

const node = (id: string, kind: PathNode["kind"], after: string, out: number | null = null, into: number | null = out): PathNode => ({
  id, kind, after, name: id, detail: "", stage: "supply", at: "", worst: null, window: null, values: {},
  running_in_pa: into, running_out_pa: out, standing_in_pa: null, standing_out_pa: null,
});
const tree = [node("storage", "vessel", "", 300_000), node("reg", "regulator", "storage", 2700, 300_000), node("a", "appliance", "reg", 2600), node("b", "appliance", "reg", 2500), node("hall", "space", "a")];

describe("the fuel path", () => {
  it("goes from the vessel to the inlet chosen, with the space behind it", () => {
    expect(inlets(tree).map((n) => n.id)).toEqual(["a", "b"]);
    expect(wayTo(tree, "b").map((n) => n.id)).toEqual(["storage", "reg", "b", "hall"]);
  });
  it("is all of it while there is no inlet, and ends where parts hang on each other", () => {
    expect(wayTo(tree, undefined)).toHaveLength(5);
    expect(wayTo([node("x", "line", "y"), node("y", "line", "x")], "x")).toHaveLength(2);
  });
  it("steps straight down at a regulator and leaves a gap where a pressure is not known", () => {
    const points = stairPoints(wayTo(tree, "a"), [0, 100, 200, 300], "running");
    expect(points.slice(2, 4)).toEqual([{ x: 100, pa: 300_000 }, { x: 100, pa: 2700 }]);
    expect(stairPoints(wayTo(tree, "a"), [0, 100, 200, 300], "standing")).toEqual([null, null, null, null, null, null]);
  });
});

describe("the scale of the staircase", () => {
  it("rises all the way from a slight vacuum to tank pressure, straight where the windows are", () => {
    const heights = [-300, 0, 1000, 2000, STRAIGHT_TO_PA, 5000, 69_000, 1_000_000].map(height);
    expect([...heights].sort((a, b) => a - b)).toEqual(heights);
    expect(new Set(heights).size).toBe(heights.length);
    expect(height(3000) - height(2000)).toBeCloseTo(height(2000) - height(1000), 12);
    expect(height(-1e9)).toBe(0);
    expect(height(1e9)).toBe(1);
  });
  it("has its marks in both systems inside the scale", () => {
    for (const system of ["metric", "us"] as const) for (const m of marks(system)) expect(height(m.pa)).toBeGreaterThan(0);
  });
});
