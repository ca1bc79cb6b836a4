// A device whose clock is off by a day files today's reading under today, with its own clock beside it.
import { afterEach, expect, it } from "vitest";
import { momentOf } from "../stages/running/visiting";
import { nowMs, proven, stamp } from "./time";

const DAY_S = 86_400;

afterEach(() => proven(0));

it("goes by the server's clock where this device's is off, and keeps both", () => {
  proven(DAY_S);
  const { at, clock_at } = stamp();
  expect(Date.parse(clock_at ?? "") - Date.parse(at)).toBeCloseTo(DAY_S * 1000, -3);
  expect(Date.now() - nowMs()).toBeCloseTo(DAY_S * 1000, -3);
  const visit = momentOf("");
  expect("at" in visit && visit.clock_at !== undefined && Date.parse(visit.at) < Date.now() - DAY_S * 900).toBe(true);
});

it("leaves a clock alone that is off by less than two minutes", () => {
  proven(90);
  expect(stamp().clock_at).toBeUndefined();
  expect(Math.abs(Date.now() - nowMs())).toBeLessThan(50);
});

it("remembers what was proven, so that a day without signal goes by it too", () => {
  proven(-DAY_S);
  expect(localStorage.getItem("ofen.clock")).toBe(String(-DAY_S));
});
