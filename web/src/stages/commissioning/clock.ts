// The clock that nobody can set: seconds since this page was opened, beside the device's own.
import { nowMs } from "../../outbox/time";
import { useEffect, useState } from "react";
import { v7 as uuidv7 } from "uuid";

/** This page, by an id of its own; a reload is another page. */
export const PAGE = uuidv7();

export const pageSeconds = () => Math.round(performance.now()) / 1000;

export interface Begun {
  /** By the device's clock, null while it has not begun. */
  at: string | null;
  page: string;
  page_s: number | null;
}

/** How long it has been, in s: by this page's own clock where it saw the beginning, else by the device's. */
export function sinceS(begun: Begun): number {
  if (begun.at === null) return 0;
  if (begun.page === PAGE && begun.page_s !== null) return Math.max(0, pageSeconds() - begun.page_s);
  return Math.max(0, (nowMs() - Date.parse(begun.at)) / 1000);
}

/** Whether this very page saw it begin. */
export const watchedHere = (begun: Begun) => begun.at !== null && begun.page === PAGE;

/** How long it surely was: all that this page saw; of a beginning before it, what it has been open, where the device's clock agrees. */
export function provenS(begun: Begun): number {
  if (watchedHere(begun)) return sinceS(begun);
  const open = pageSeconds();
  return begun.at !== null && begun.page !== "" && open <= (nowMs() - Date.parse(begun.at)) / 1000 ? open : 0;
}

const TICK_MS = 250;

/** How long it has been, as it runs. */
export function useSince(begun: Begun, running: boolean): number {
  const [, tick] = useState(0);
  useEffect(() => {
    if (!running) return;
    const timer = setInterval(() => tick((n) => n + 1), TICK_MS);
    return () => clearInterval(timer);
  }, [running]);
  return running ? sinceS(begun) : 0;
}

/** A time as a stopwatch shows it. */
export const stopwatch = (s: number) => {
  const whole = Math.max(0, Math.floor(s));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
};
