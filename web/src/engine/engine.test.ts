import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import {
  BOOT_MS,
  CALL_MS,
  Engine,
  EngineFailure,
  type FromWorker,
  MOST_STARTS,
  Stale,
  type ToWorker,
  type WorkerLike,
} from "./engine";
import { tooMuch } from "./guard";
import { type Changes, Told } from "./told";

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

const put = (engine: Engine, question: string, key: string | null = null) => engine.ask(() => question, String, key);

describe("the engine", () => {
  beforeEach(() => {
    vi.useFakeTimers();
    made = [];
  });
  afterEach(() => vi.useRealTimers());

  it("answers what was asked before it was up", async () => {
    const engine = start();
    const answer = put(engine, "{}");
    expect(last().asked).toHaveLength(0);
    last().say({ kind: "up" });
    last().reply("yes");
    await expect(answer).resolves.toBe("yes");
    await expect(engine.whenKnown()).resolves.toBe(true);
  });

  it("drops a question that a newer one of the same key has made pointless, and no other", async () => {
    const engine = start();
    const answers = [put(engine, '"a"', "plan"), put(engine, '"b"', "log"), put(engine, '"c"', "plan")];
    await expect(answers[0]).rejects.toBeInstanceOf(Stale);
    last().say({ kind: "up" });
    last().reply("c");
    last().reply("b");
    await expect(Promise.all(answers.slice(1))).resolves.toEqual(["b", "c"]);
  });

  it("starts again when it does not start in time, and gives up after a few tries", async () => {
    const engine = start();
    const answer = put(engine, "{}");
    const failed = expect(answer).rejects.toBeInstanceOf(EngineFailure);
    for (let n = 0; n < MOST_STARTS; n += 1) await vi.advanceTimersByTimeAsync(BOOT_MS);
    expect(made).toHaveLength(MOST_STARTS);
    expect(made.every((p) => p.ended)).toBe(true);
    expect(engine.state).toBe("down");
    await failed;
    await expect(engine.whenKnown()).resolves.toBe(false);
    await expect(put(engine, "{}")).rejects.toBeInstanceOf(EngineFailure);
  });

  it("ends a call that runs away, starts again, and answers what waited behind it", async () => {
    const engine = start();
    last().say({ kind: "up" });
    const runaway = expect(put(engine, "1")).rejects.toThrow("too long");
    const behind = put(engine, "2");
    await vi.advanceTimersByTimeAsync(CALL_MS);
    await runaway;
    expect(made).toHaveLength(2);
    expect(made[0]?.ended).toBe(true);
    last().say({ kind: "up" });
    last().reply("two");
    await expect(behind).resolves.toBe("two");
  });

  it("takes a device that slept in the middle of a call for no runaway", async () => {
    const engine = start();
    last().say({ kind: "up" });
    const answer = put(engine, "1");
    await vi.advanceTimersToNextTimerAsync();
    vi.setSystemTime(Date.now() + 3_600_000);
    await vi.advanceTimersToNextTimerAsync();
    last().reply("one");
    await expect(answer).resolves.toBe("one");
    expect(made).toHaveLength(1);
  });

  it("does not give up for crashes that answers lie between", async () => {
    const engine = start();
    for (let n = 0; n < 2 * MOST_STARTS; n += 1) {
      last().say({ kind: "up" });
      const answer = put(engine, "1");
      last().reply("one");
      await expect(answer).resolves.toBe("one");
      last().onerror?.(new Event("error") as ErrorEvent);
    }
    expect(engine.state).toBe("starting");
  });

  it("goes on after a crash of one call and after the worker itself fails", async () => {
    const engine = start();
    last().say({ kind: "up" });
    const crashed = expect(put(engine, "1")).rejects.toThrow("boom");
    last().say({ kind: "crash", id: last().asked[0]?.id ?? 0, why: "boom" });
    await crashed;
    const broken = expect(put(engine, "2")).rejects.toBeInstanceOf(EngineFailure);
    last().onerror?.(new Event("error") as ErrorEvent);
    await broken;
    last().say({ kind: "up" });
    const again = put(engine, "3");
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

describe("a plan told by what changed", () => {
  const stage = (stage: string, headline: string) =>
    ({ stage, headlines: [headline] }) as unknown as NonNullable<Changes["stages"][number]>;
  const first: Changes = {
    turn: 1,
    core_version: "1",
    stages: [stage("need", "a"), stage("equipment", "b")],
    supplies: [],
    machines: [],
    lines: [],
    faults: [],
  };

  it("keeps the very objects of what is as it was, and takes the rest", () => {
    const told = new Told();
    const before = told.grown(first);
    const after = told.grown({
      ...first,
      turn: 2,
      stages: [null, stage("equipment", "c")],
      machines: null,
      faults: [{ path: "name", message: "is missing" }],
    });
    expect(after.stages[0]).toBe(before.stages[0]);
    expect(after.stages[1]?.headlines).toEqual(["c"]);
    expect(after.machines).toBe(before.machines);
    expect(after.faults).toHaveLength(1);
    expect(told.turn).toBe(2);
  });

  it("never stands in for what was not told", () => {
    expect(() => new Told().grown({ ...first, stages: [null] })).toThrow(EngineFailure);
  });

  it("makes its question when it is put, after the answer before it was read", async () => {
    vi.useRealTimers();
    const engine = start();
    last().say({ kind: "up" });
    let read = 0;
    const ask = () =>
      engine.ask(
        () => `kept ${read}`,
        (text) => (read = Number(text)),
      );
    const both = [ask(), ask()];
    last().reply("7");
    expect(last().asked.map((q) => q.question)).toEqual(["kept 0", "kept 7"]);
    last().reply("8");
    await expect(Promise.all(both)).resolves.toEqual([7, 8]);
  });
});

describe("what may be given to Python", () => {
  it("is neither too large nor too deep, whatever stands in quotes", async () => {
    expect(tooMuch(JSON.stringify({ a: [[[['[[[[{{{{\\"']]]] }))).toBeNull();
    expect(tooMuch("[".repeat(41))).toContain("nested");
    expect(tooMuch(`"${"x".repeat(5 * 1024 * 1024)}"`)).toContain("characters");
    made = [];
    const engine = start();
    last().say({ kind: "up" });
    await expect(put(engine, "[".repeat(41))).rejects.toBeInstanceOf(EngineFailure);
    expect(last().asked).toHaveLength(0);
  });
});
