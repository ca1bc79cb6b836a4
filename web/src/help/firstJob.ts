// The five marks that walk along with somebody's first job. Sent away, or all done, they never come back.
import type { StageLine } from "../api/client";

const KEY = "ofen.first-job";
/** What is kept once they are gone. */
const GONE = "gone";

/** A job was created on this device: the first one ever is walked along with. */
export function begins(job: string) {
  if (localStorage.getItem(KEY) === null) localStorage.setItem(KEY, job);
}

/** Whether the marks walk along with this job. */
export const walksWith = (job: string) => localStorage.getItem(KEY) === job;

/** They never come back on this device. */
export function sendAway() {
  localStorage.setItem(KEY, GONE);
}

export type Mark = "need" | "equipment" | "supply" | "siting" | "commissioning";
export const MARKS: Mark[] = ["need", "equipment", "supply", "siting", "commissioning"];

/** The first mark that is not done: a stage is done once its line says more than that something is missing. */
export function nextMark(lines: readonly StageLine[]): Mark | null {
  const isDone = (mark: Mark) => {
    const level = lines.find((l) => l.stage === mark)?.level ?? null;
    return mark === "commissioning" ? level === "good" : level !== null && level !== "not_checked";
  };
  return MARKS.find((m) => !isDone(m)) ?? null;
}
