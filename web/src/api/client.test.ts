import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { api, askServer } from "./client";

const busy = {
  error: { title: "The server is busy", status: 503, detail: "Try again in a moment." },
  response: new Response(null, { status: 503, headers: { "retry-after": "1" } }),
};
const answered = { data: { made: true }, response: new Response(null, { status: 200 }) };

const busyFor = (times: number) => {
  let calls = 0;
  return vi.spyOn(api, "POST").mockImplementation((() => Promise.resolve(calls++ < times ? busy : answered)) as never);
};
const asked = () => askServer("plan", { document: {} } as never);

beforeEach(() => void vi.useFakeTimers());
afterEach(() => {
  vi.useRealTimers();
  vi.restoreAllMocks();
});

test.each([
  [0, 1],
  [1, 2],
  [2, 3],
])("a server that is busy %i times is asked %i times", async (times, calls) => {
  const post = busyFor(times);
  const answer = asked();
  await vi.runAllTimersAsync();
  expect(await answer).toEqual({ made: true });
  expect(post).toHaveBeenCalledTimes(calls);
});

test("a server that stays busy says so", async () => {
  busyFor(9);
  const said = asked().then(
    () => "answered",
    (problem: Error) => problem.message,
  );
  await vi.runAllTimersAsync();
  expect(await said).toBe("The server is busy");
});
