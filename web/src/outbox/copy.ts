// A job as the server has it, its log page by page: a long one is more than one answer may hold.
import { type JobCopy, answer, api } from "../api/client";
import type { Device } from "./device";

/** The copy of a job with what has come in of its log since the mark: of a long one the newest part, unless the whole is wanted. */
export async function copyOf(jobId: string, since = "", isWhole = false): Promise<JobCopy> {
  const ask = (skip: number) =>
    answer(api.GET("/api/jobs/{job_id}/copy", { params: { path: { job_id: jobId }, query: { since, skip, whole: isWhole } } }));
  const first = await ask(0);
  const whole = { ...first, entries: [...first.entries] };
  let { more } = first;
  let skip = first.entries.length + first.unreadable.filter((u) => u.what === "entry").length;
  while (more) {
    const next = await ask(skip);
    whole.entries.push(...next.entries);
    skip += next.entries.length + next.unreadable.filter((u) => u.what === "entry").length;
    ({ more } = next);
  }
  return whole;
}

const coming = new Map<string, Promise<void>>();

/**
 * Bring what has come in of a job since this device last had it; `opened` where a person has it open. Asked for again while it is
 * on its way it comes once.
 */
export function fetchJob(device: Device, jobId: string, opened = true): Promise<void> {
  const key = `${device.person} ${jobId} ${opened}`;
  const known = coming.get(key);
  if (known) return known;
  const made = brought(device, jobId, opened).finally(() => coming.delete(key));
  coming.set(key, made);
  return made;
}

async function brought(device: Device, jobId: string, opened: boolean): Promise<void> {
  const asked = await device.arrivals(jobId);
  await device.takeIn(await copyOf(jobId, (await device.db.jobs.get(jobId))?.mark), opened, asked);
}

/** Bring older entries of a long log than this device keeps by itself; returns how many came. */
export async function fetchOlder(device: Device, jobId: string): Promise<number> {
  const before = (await device.db.jobs.get(jobId))?.logFrom;
  if (!before) return 0;
  const found = await answer(api.GET("/api/jobs/{job_id}/older", { params: { path: { job_id: jobId }, query: { before } } }));
  await device.takeOlder(jobId, found);
  return found.length;
}
