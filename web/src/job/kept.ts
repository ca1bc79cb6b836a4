// What this browser keeps of a job until the server has it: the document being edited and texts that are no value yet.
import type { Document } from "./document";

export interface Kept {
  document: Document;
  basedOn: number;
  dirty: boolean;
  drafts: Record<string, string>;
}

const key = (jobId: string) => `ofen.job.${jobId}`;

export function recall(jobId: string): Kept | null {
  try {
    const found = localStorage.getItem(key(jobId));
    return found ? (JSON.parse(found) as Kept) : null;
  } catch {
    return null;
  }
}

/** Keep it; false where the browser's storage is full or closed. */
export function keep(jobId: string, kept: Kept): boolean {
  try {
    if (!kept.dirty && Object.keys(kept.drafts).length === 0) localStorage.removeItem(key(jobId));
    else localStorage.setItem(key(jobId), JSON.stringify(kept));
    return true;
  } catch {
    return false;
  }
}

/** Forget every kept job, when a person signs out. */
export function forgetAll() {
  for (const name of Object.keys(localStorage)) if (name.startsWith("ofen.")) localStorage.removeItem(name);
}

/** Jobs with something kept that the server does not have. */
export function waiting(): number {
  return Object.keys(localStorage).filter((name) => name.startsWith("ofen.job.")).length;
}
