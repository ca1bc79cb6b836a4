import { beforeEach, expect, test } from "vitest";
import type { StageLine } from "../api/client";
import { begins, nextMark, sendAway, walksWith } from "./firstJob";

const line = (stage: StageLine["stage"], level: StageLine["level"]): StageLine => ({ stage, level, say: "", values: {} });

beforeEach(() => localStorage.clear());

test("the marks walk along with the first job, never with a second one", () => {
  begins("one");
  begins("two");
  expect([walksWith("one"), walksWith("two")]).toEqual([true, false]);
});

test("sent away, they never come back", () => {
  begins("one");
  sendAway();
  begins("two");
  expect([walksWith("one"), walksWith("two")]).toEqual([false, false]);
});

test("the next mark is the first stage that still misses something", () => {
  expect(nextMark([])).toBe("need");
  expect(nextMark([line("need", "good"), line("equipment", "not_checked")])).toBe("equipment");
  const planned = (["need", "equipment", "supply", "siting"] as const).map((s) => line(s, "caution"));
  expect(nextMark(planned)).toBe("commissioning");
  expect(nextMark([...planned, line("commissioning", "good")])).toBeNull();
});
