// What the instruments show now: asked for once a second while somebody looks, just after the reader has read them.
import { useSyncExternalStore } from "react";
import { type Live, type Shown, answer, api } from "../api/client";

const EVERY_MS = 1000;
// The reader writes at the full second and a little; then it is asked for.
const AFTER_MS = 40;
const SILENT_MS = 3000;

export type LiveState = { live: Live | null; silent: boolean };

const NONE: LiveState = { live: null, silent: false };

/** How long until the next values are there, by the server's own clock: it says when it read, and what time it is. */
export function waitMs(live: Live): number {
  if (!live.alive || live.read_at === null) return EVERY_MS;
  const sinceRead = Date.parse(live.now) - Date.parse(live.read_at);
  return Math.min(EVERY_MS + AFTER_MS, Math.max(AFTER_MS, EVERY_MS + AFTER_MS - sinceRead));
}

export class LiveStore {
  private state = NONE;
  private readonly lookers = new Set<() => void>();
  private timer: ReturnType<typeof setTimeout> | undefined;
  private readonly fetchIt: () => Promise<Live>;

  constructor(fetchIt: () => Promise<Live>) {
    this.fetchIt = fetchIt;
  }

  /** Look, until the answer is called; the first to look begins the asking, the last ends it. */
  subscribe = (changed: () => void): (() => void) => {
    this.lookers.add(changed);
    if (this.lookers.size === 1) void this.turn();
    return () => {
      this.lookers.delete(changed);
      if (this.lookers.size === 0) {
        clearTimeout(this.timer);
        this.state = NONE;
      }
    };
  };

  get = (): LiveState => this.state;

  private async turn(): Promise<void> {
    let wait = SILENT_MS;
    try {
      const live = await this.fetchIt();
      wait = waitMs(live);
      this.put({ live, silent: false });
    } catch {
      this.put({ live: null, silent: true });
    }
    clearTimeout(this.timer);
    if (this.lookers.size > 0) this.timer = setTimeout(() => void this.turn(), wait);
  }

  private put(state: LiveState): void {
    if (this.lookers.size === 0) return;
    this.state = state;
    for (const changed of this.lookers) changed();
  }
}

/** What a channel shows, or why its instrument is not read at all; null while nothing is known. */
export function shownOf(live: Live | null, instrument: string, channel: string): Shown | null {
  const own = live?.values[instrument];
  return own?.[channel] ?? own?.[""] ?? null;
}

const store = new LiveStore(() => answer(api.GET("/api/instruments/live")));
const nobody = () => () => undefined;

/** What the instruments of the team show now; asked for only while `looks`. */
export function useLive(looks: boolean): LiveState {
  return useSyncExternalStore(looks ? store.subscribe : nobody, looks ? store.get : () => NONE);
}
