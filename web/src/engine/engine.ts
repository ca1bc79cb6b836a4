// The core in the browser: started once, watched, started again after a crash or a call that never ends. No React in here.
import { tooMuch } from "./guard";

/** A question, or files to look at. */
export type ToWorker = { id: number; question: string; files?: Record<string, Uint8Array> };
export type FromWorker =
  | { kind: "up" }
  | { kind: "failed"; why: string }
  | { kind: "answer"; id: number; text: string }
  | { kind: "crash"; id: number; why: string };

/** The little of a worker that is used, so that a test can stand in for one. */
export interface WorkerLike {
  postMessage(message: ToWorker): void;
  terminate(): void;
  onmessage: ((event: MessageEvent<FromWorker>) => unknown) | null;
  onerror: ((event: ErrorEvent) => unknown) | null;
}

export type EngineState = "starting" | "up" | "down";

/** A newer question of the same key made this one pointless. */
export class Stale extends Error {}
/** The engine could not answer; somebody else may. */
export class EngineFailure extends Error {}

interface Asked {
  id: number;
  question: () => string;
  files?: Record<string, Uint8Array>;
  key: string | null;
  settle: (text: string) => void;
  fail: (problem: Error) => void;
}

export const BOOT_MS = 60_000;
export const CALL_MS = 15_000;
/** A file may hold a season's records. */
export const FILES_MS = 180_000;
/** How often it may start without an answer in between. */
export const MOST_STARTS = 4;
const WATCH_STEPS = 20;

export class Engine {
  state: EngineState = "starting";
  private worker: WorkerLike | null = null;
  private readonly queue: Asked[] = [];
  private asked: Asked | null = null;
  private timer: ReturnType<typeof setInterval> | undefined;
  private starts = 0;
  private count = 0;
  private readonly listeners = new Set<() => void>();
  private readonly make: () => WorkerLike;
  private readonly bootMs: number;

  /** `free` comes true when it may begin to load; `bootMs` is how long that may take. */
  constructor(make: () => WorkerLike, free: Promise<void> | null = null, bootMs = BOOT_MS) {
    this.make = make;
    this.bootMs = bootMs;
    if (free) void free.then(() => this.start());
    else this.start();
  }

  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
  readonly get = () => this.state;

  private become(state: EngineState) {
    this.state = state;
    for (const listener of this.listeners) listener();
  }

  private start() {
    this.starts += 1;
    this.become("starting");
    let worker: WorkerLike;
    try {
      worker = this.make();
    } catch {
      this.become("down");
      return;
    }
    this.worker = worker;
    // One that was ended may have spoken before: it is not heard any more.
    worker.onmessage = ({ data }) => this.worker === worker && this.heard(data);
    worker.onerror = () => this.worker === worker && this.broken("the worker failed");
    this.watch(this.bootMs, "it did not start in time");
  }

  /** Count the time in small steps: a device that slept in between wakes to one step, not to a patience that ran out. */
  private watch(ms: number, why: string) {
    clearInterval(this.timer);
    let left = WATCH_STEPS;
    this.timer = setInterval(() => {
      left -= 1;
      if (left === 0) this.broken(why);
    }, ms / WATCH_STEPS);
  }

  private heard(message: FromWorker) {
    clearInterval(this.timer);
    if (message.kind === "failed") this.broken(message.why);
    else if (message.kind === "up") {
      this.become("up");
      this.next();
    } else if (this.asked?.id === message.id) {
      const { asked } = this;
      this.asked = null;
      if (message.kind === "answer") {
        this.starts = 1;
        asked.settle(message.text);
      } else asked.fail(new EngineFailure(message.why));
      this.next();
    }
  }

  /** End the worker; what it was asked fails, what waits is asked of the next one. */
  private broken(why: string) {
    clearInterval(this.timer);
    this.worker?.terminate();
    this.worker = null;
    this.asked?.fail(new EngineFailure(why));
    this.asked = null;
    if (this.starts < MOST_STARTS) {
      this.start();
      return;
    }
    this.become("down");
    for (const waiting of this.queue.splice(0)) waiting.fail(new EngineFailure(why));
  }

  private next() {
    if (this.asked || this.state !== "up") return;
    const asked = this.queue.shift();
    if (!asked) return;
    const question = asked.question();
    const refused = tooMuch(question);
    if (refused) {
      asked.fail(new EngineFailure(refused));
      this.next();
      return;
    }
    this.asked = asked;
    this.watch(asked.files ? FILES_MS : CALL_MS, "it took too long");
    this.worker?.postMessage(asked.files ? { id: asked.id, question, files: asked.files } : { id: asked.id, question });
  }

  /**
   * Ask; a newer question with the same key takes the place of one that still waits. The question is made when it is put,
   * the answer read before the next one is put: so a question may build on the answer before it.
   */
  ask<T>(
    question: () => string,
    read: (text: string) => T,
    key: string | null = null,
    files?: Record<string, Uint8Array>,
  ): Promise<T> {
    if (this.state === "down") return Promise.reject(new EngineFailure("it is down"));
    return new Promise((done, fail) => {
      this.count += 1;
      const settle = (text: string) => {
        try {
          done(read(text));
        } catch (problem) {
          fail(problem as Error);
        }
      };
      const asked = { id: this.count, question, key, settle, fail, ...(files ? { files } : {}) };
      const place = key === null ? -1 : this.queue.findIndex((q) => q.key === key);
      if (place >= 0) this.queue.splice(place, 1, asked).forEach((old) => old.fail(new Stale()));
      else this.queue.push(asked);
      this.next();
    });
  }

  /** Whether it is up, once that is known. */
  whenKnown(): Promise<boolean> {
    if (this.state !== "starting") return Promise.resolve(this.state === "up");
    return new Promise((known) => {
      const stop = this.subscribe(() => {
        if (this.state === "starting") return;
        stop();
        known(this.state === "up");
      });
    });
  }
}
