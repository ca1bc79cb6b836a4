import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Live } from "../api/client";
import { LiveStore, waitMs } from "./live";

const live = (sinceReadMs: number, alive = true): Live => ({
  alive,
  read_at: "2026-11-28T10:00:00.000Z",
  now: new Date(Date.parse("2026-11-28T10:00:00.000Z") + sinceReadMs).toISOString(),
  values: {},
});

describe("when the next values are asked for", () => {
  it("is just after the reader has read again", () => {
    expect(waitMs(live(100))).toBe(940);
    expect(waitMs(live(0))).toBe(1040);
  });
  it("is soon where the reading is late, and a second where nobody reads", () => {
    expect(waitMs(live(5000))).toBe(40);
    expect(waitMs(live(100, false))).toBe(1000);
    expect(waitMs({ ...live(0), read_at: null })).toBe(1000);
  });
});

describe("the store", () => {
  beforeEach(() => {
    vi.useFakeTimers();
  });
  afterEach(() => {
    vi.useRealTimers();
  });

  it("asks once a second while somebody looks, once for all of them, and then no more", async () => {
    const fetched = vi.fn(async () => live(0));
    const store = new LiveStore(fetched);
    const heard = vi.fn();
    const [first, second] = [store.subscribe(heard), store.subscribe(() => undefined)];
    await vi.advanceTimersByTimeAsync(3200);
    expect(fetched).toHaveBeenCalledTimes(4);
    expect(heard).toHaveBeenCalledTimes(4);
    first();
    second();
    await vi.advanceTimersByTimeAsync(5000);
    expect(fetched).toHaveBeenCalledTimes(4);
    expect(store.get().live).toBeNull();
  });

  it("says that there is no answer, and goes on asking", async () => {
    let there = false;
    const store = new LiveStore(async () => {
      if (!there) throw new Error("no signal");
      return live(0);
    });
    const stop = store.subscribe(() => undefined);
    await vi.advanceTimersByTimeAsync(10);
    expect(store.get()).toEqual({ live: null, silent: true });
    there = true;
    await vi.advanceTimersByTimeAsync(3000);
    expect(store.get().silent).toBe(false);
    stop();
  });
});
