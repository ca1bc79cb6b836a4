// A page that came slowly is on a slow line; one that lies on the device is on none.
import { expect, it } from "vitest";
import { isSlow } from "./line";

const came = (transferSize: number, seconds: number) =>
  ({ transferSize, startTime: 0, responseEnd: seconds * 1000 }) as unknown as PerformanceEntry;

it.each([
  ["50 kB/s", [came(160_000, 3.2)], true],
  ["10 MB/s", [came(160_000, 0.02), came(40_000, 0.01)], false],
  ["from the device", [came(0, 0.001)], false],
  ["nothing large", [came(900, 2)], false],
])("%s", (_, entries, slow) => {
  expect(isSlow(entries)).toBe(slow);
});
