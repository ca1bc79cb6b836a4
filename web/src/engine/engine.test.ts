import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { BOOT_MS, CALL_MS, Engine, EngineFailure, type FromWorker, MOST_STARTS, Stale, type ToWorker, type WorkerLike } from "./engine";
import { tooMuch } from "./guard";

/** A worker that answers only when it is told to. */
class Puppet implements WorkerLike {
  asked: ToWorker[] = [];
  ended = false;
  onmessage: ((event: MessageEvent<FromWorker>) => unknown) | null = null;
  onerror: ((event: ErrorEvent) => unknown) | null = null;
  postMessage(message: ToWorker) {
    this.asked.push(message);
  }
  terminate() {
    this.ended = true;
  }
  say(message: FromWorker) {
    this.onmessage?.({ data: message } as MessageEvent<FromWorker>);
  }
  reply(text: string) {
    const id = this.asked.at(-1)?.id ?? -1;
    this.say({ kind: "answer", id, text });
  }
}

let made: Puppet[] = [];
const start = () =>
  new Engine(() => {
    const puppet = new Puppet();
    made.push(puppet);
    return puppet;
  });
const last = () => {
  const found = made.at(-1);
  if (!found) throw new Error("no worker was made");
  return found;
};

describe("the engine", () => {
  beforeEach(() => {
    vi.useFakeTimers();
    made = [];
  });
  afterEach(() => vi.useRealTimers());

  it("answers what was asked before it was up", async () => {
    const engine = start();
    const answer = engine.ask("{}");
    expect(last().asked).toHaveLength(0);
    last().say({ kind: "up" });
    last().reply("yes");
    await expect(answer).resolves.toBe("yes");
    await expect(engine.whenKnown()).resolves.toBe(true);
  });

  it("drops a question that a newer one of the same key has made pointless, and no other", async () => {
    const engine = start();
    const answers = [engine.ask('"a"', "plan"), engine.ask('"b"', "log"), engine.ask('"c"', "plan")];
    await expect(answers[0]).rejects.toBeInstanceOf(Stale);
    last().say({ kind: "up" });
    last().reply("c");
    last().reply("b");
    await expect(Promise.all(answers.slice(1))).resolves.toEqual(["b", "c"]);
  });

  it("starts again when it does not start in time, and gives up after a few tries", async () => {
    const engine = start();
    const answer = engine.ask("{}");
    const failed = expect(answer).rejects.toBeInstanceOf(EngineFailure);
    for (let n = 0; n < MOST_STARTS; n += 1) await vi.advanceTimersByTimeAsync(BOOT_MS);
    expect(made).toHaveLength(MOST_STARTS);
    expect(made.every((p) => p.ended)).toBe(true);
    expect(engine.state).toBe("down");
    await failed;
    await expect(engine.whenKnown()).resolves.toBe(false);
    await expect(engine.ask("{}")).rejects.toBeInstanceOf(EngineFailure);
  });

  it("ends a call that runs away, starts again, and answers what waited behind it", async () => {
    const engine = start();
    last().say({ kind: "up" });
    const runaway = expect(engine.ask("1")).rejects.toThrow("too long");
    const behind = engine.ask("2");
    await vi.advanceTimersByTimeAsync(CALL_MS);
    await runaway;
    expect(made).toHaveLength(2);
    expect(made[0]?.ended).toBe(true);
    last().say({ kind: "up" });
    last().reply("two");
    await expect(behind).resolves.toBe("two");
  });

  it("goes on after a crash of one call and after the worker itself fails", async () => {
    const engine = start();
    last().say({ kind: "up" });
    const crashed = expect(engine.ask("1")).rejects.toThrow("boom");
    last().say({ kind: "crash", id: last().asked[0]?.id ?? 0, why: "boom" });
    await crashed;
    const broken = expect(engine.ask("2")).rejects.toBeInstanceOf(EngineFailure);
    last().onerror?.(new Event("error") as ErrorEvent);
    await broken;
    last().say({ kind: "up" });
    const again = engine.ask("3");
    last().reply("three");
    await expect(again).resolves.toBe("three");
  });

  it("is down at once where no worker can be made", () => {
    const engine = new Engine(() => {
      throw new Error("not here");
    });
    expect(engine.state).toBe("down");
  });
});

describe("what may be given to Python", () => {
  it("is neither too large nor too deep, whatever stands in quotes", async () => {
    expect(tooMuch(JSON.stringify({ a: [[[["[[[[{{{{\\\""]]]] }))).toBeNull();
    expect(tooMuch("[".repeat(41))).toContain("nested");
    expect(tooMuch(`"${"x".repeat(5 * 1024 * 1024)}"`)).toContain("characters");
    made = [];
    await expect(start().ask("[".repeat(41))).rejects.toBeInstanceOf(EngineFailure);
  });
});
