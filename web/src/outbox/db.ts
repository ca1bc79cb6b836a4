// What this device keeps for one person: jobs, runs, records, and what waits for the server. One database a person.
import Dexie, { type Table } from "dexie";
import type { Forecast, JobCopy, JobLine, Plan, ProblemBody, Procedure, Role, Signed } from "../api/client";
import type { Document, Json } from "../job/document";

export interface Theirs {
  document: Document;
  revisionId: string;
  revision: number;
  author: string;
}

/** What somebody else has done to fields of a job, to be read once by whoever works here. */
export interface News {
  author: string;
  /** Put together with what was changed here, or put in the place of what this person had set. */
  kind: "merged" | "changed";
  changes: { path: string; before: Json; after: Json }[];
}

/** A job as it stands on this device. */
export interface KeptJob {
  id: string;
  document: Document;
  /** The newest revision here: the server's, or one that still waits. */
  head: string;
  /** The newest revision the server is known to have, and its document. */
  base: { revisionId: string; document: Document } | null;
  conflict: Theirs | null;
  news?: News | null;
  /** What this person has set here and the server has taken, by path: whoever changes it is told of. */
  mine?: Record<string, Json>;
  /** Texts typed that are no value yet, by path. */
  drafts: Record<string, string>;
  openedAt: number;
  /** What this person may do with it, as the server said last. */
  role?: Role;
  pinned: boolean;
  /** Filed away; signed off by whom and when, as the server said last. */
  filed?: boolean;
  signedOff?: { name: string; at: string } | null;
  /** The server gives it to this person no more: it was given away, or they have left its team. */
  gone?: boolean;
  /** From when on this device has the log; null or missing for one it has whole. */
  logFrom?: string | null;
  /** The newest forecast that was fetched for it. */
  weather?: Forecast | null;
  /** How often something of it has arrived at the server. */
  arrivals?: number;
  /** Records of it that the server cannot read, by name. */
  unreadable?: JobCopy["unreadable"];
  /** The server has gone back to an older moment: what it lacks of this job is to be offered again. */
  toOffer?: true;
  /** Up to when this device has the log. */
  mark?: string;
  /** The plan made last on this device, and the document it was made of. */
  plan?: Plan;
  planOf?: string;
}

export interface KeptRun {
  id: string;
  job: string;
  unit: string;
  begunAt: string;
  /** The procedure it was begun with; a run kept before procedures were sealed gets it from the server. */
  procedure: Procedure | null;
  signed: Signed | null;
  /** Signed off here; the server has not confirmed it yet. */
  signedHere: Signed | null;
  refusal: ProblemBody | null;
  /** When the sign-off was made that the server did not take. */
  refusedAt?: string | null;
  /** The moment of the newest of its events here, ms since 1970: what is recorded next comes after it. */
  newestMs?: number;
}

/** A picture taken at work; sent: not yet (0), the server has it (1), it will not take it (2). */
export interface KeptPhoto {
  id: string;
  job: string;
  /** A JPEG. */
  picture: ArrayBuffer;
  sent: 0 | 1 | 2;
  refusal?: string;
}

export interface RecordBody {
  id: string;
  at: string;
  [field: string]: unknown;
}

/** An event of a run or an entry of a log. */
export interface KeptRecord {
  id: string;
  kind: "event" | "entry";
  job: string;
  /** The run of an event, the job of an entry. */
  owner: string;
  at: string;
  body: RecordBody;
  sent: 0 | 1;
  refusal: ProblemBody | null;
}

/** A job file taken in on this device, the job's id its own; it goes to the server just as it is. */
export interface KeptFile {
  id: string;
  name: string;
  content: ArrayBuffer;
}

export type WireRecord =
  | { kind: "job"; id: string; revision_id: string; document: Document; plan_digest?: string | null }
  | { kind: "revision"; id: string; job: string; based_on: string; document: Document; plan_digest?: string | null }
  | {
      kind: "run";
      id: string;
      job: string;
      unit: string;
      revision_id: string;
      procedure: Procedure;
      at?: string;
      offered_again?: boolean;
    }
  | { kind: "event"; id: string; run: string; body: RecordBody }
  | { kind: "entry"; id: string; job: string; body: RecordBody }
  | { kind: "sign_off"; id: string; run: string; at?: string };

/** A file of a whole job, which goes to the server by itself and stands for all it makes. */
export interface FileRecord {
  kind: "file";
  id: string;
  revision_id: string;
  document: Document;
}

/** A record that waits for the server, in the order of its making. */
export interface Waiting {
  seq?: number;
  id: string;
  job: string;
  record: WireRecord | FileRecord;
  /** Sent at least once: the server may have it, so it is never changed any more. */
  attempted: 0 | 1;
  /** Not sent before this time: somebody is still typing. */
  readyAt: number;
  stuck: "conflict" | "refused" | null;
  problem: ProblemBody | null;
}

export class DeviceDb extends Dexie {
  jobs!: Table<KeptJob, string>;
  runs!: Table<KeptRun, string>;
  records!: Table<KeptRecord, string>;
  outbox!: Table<Waiting, number>;
  lists!: Table<{ key: string; lines: JobLine[] }, string>;
  facts!: Table<{ key: string; value: string }, string>;
  photos!: Table<KeptPhoto, string>;
  files!: Table<KeptFile, string>;

  constructor(person: number) {
    super(`ofen-${person}`);
    this.version(1).stores({
      jobs: "id",
      runs: "id, job",
      records: "id, owner, job, [kind+owner]",
      outbox: "++seq, id, job",
      lists: "key",
    });
    this.version(2).stores({ facts: "key" });
    this.version(3).stores({ photos: "id, job, sent" });
    this.version(4).stores({ files: "id" });
  }
}
