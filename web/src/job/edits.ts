// What one edits in a job, and what becomes of the job by it: on the screen and in what the device keeps alike.
import { type Document, type Json, put } from "./document";

export interface Edit {
  path: string;
  /** The same place with entries named by their ids; without it the path counts. */
  to?: string;
  /** Undefined takes away what stands there. */
  value: Json | undefined;
}

/** A job with edits applied to it; what was typed at their places and could not be read is no draft any more. */
export function withEdits<D>(job: { document: Document; drafts: Record<string, D> }, edits: readonly Edit[]) {
  const settled = new Set(edits.map((e) => e.path));
  return {
    document: edits.reduce((document, e) => put(document, e.to ?? e.path, e.value), job.document),
    drafts: Object.fromEntries(Object.entries(job.drafts).filter(([path]) => !settled.has(path))),
  };
}
