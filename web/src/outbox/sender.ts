// Sends what waits on this device, in order, once: a record leaves the outbox only when the server says it has it.
import { t } from "@lingui/core/macro";
import { type JobCopy, type OutboxResult, Problem, answer, api, asForm } from "../api/client";
import { planDigest } from "../engine/ask";
import type { Document } from "../job/document";
import { copyOf } from "./copy";
import type { FileRecord, Theirs, Waiting, WireRecord } from "./db";
import type { Device } from "./device";
import { sendPhotos } from "./photos";

export const BATCH = 500;
/** What one request may hold; the server takes a little more. */
const MOST_BYTES = 3_500_000;
/** How often the server stumbles over a record sent alone, while others go through, before it is set aside. */
const MOST_STUMBLES = 12;
const FIRST_RETRY_MS = 2_000;
const LAST_RETRY_MS = 30_000;

export interface SenderState {
  /** No answer at the last try. */
  silent: boolean;
  /** The session has ended: sending waits for this person's sign-in. */
  signedOut: boolean;
  sending: boolean;
  /** What the server said when it could not take them. */
  trouble: string;
  /** The server's rules are newer than this device's, or its plan came out otherwise. */
  oldRules: boolean;
}

type Post = (records: WireRecord[], epoch: string | null) => Promise<{ core_version: string; results: OutboxResult[] }>;
type Row = Waiting & { record: WireRecord };
type FileRow = Waiting & { record: FileRecord };

const isFile = (row: Waiting): row is FileRow => row.record.kind === "file";
const isRow = (row: Waiting): row is Row => row.record.kind !== "file";

/** Send a job file of this person under the id it has on a device; the server makes it a job once. */
export async function sendFile(person: number, job: string, name: string, content: BlobPart): Promise<void> {
  const form = new FormData();
  form.append("file", new Blob([content]), name);
  form.append("id", job);
  form.append("person", String(person));
  await answer(api.POST("/api/jobs/import", asForm(form)));
}

/** What a record builds on: it is not sent while one of these is held back. */
function needs(record: Waiting["record"]): string[] {
  if (record.kind === "revision") return [record.job, record.based_on];
  if (record.kind === "run") return [record.job, record.revision_id];
  if (record.kind === "event" || record.kind === "sign_off") return [record.run];
  return record.kind === "entry" ? [record.job] : [];
}

/** The records to send now, in order: none that is stuck or still being typed, and none that builds on one of those. */
export function sendable(rows: Waiting[], now: number, most = BATCH): Waiting[] {
  const held = new Set<string>();
  const chosen: Waiting[] = [];
  for (const row of rows) {
    const blocked = row.stuck !== null || row.readyAt > now || needs(row.record).some((n) => held.has(n));
    if (!blocked && chosen.length < most) chosen.push(row);
    else if (blocked || chosen.length >= most) {
      // A job refused its newest revision still takes log entries; what is built on that revision waits.
      held.add(row.record.kind === "job" ? row.job : row.id);
      if (row.record.kind === "job" || row.record.kind === "file") held.add(row.record.revision_id);
    }
  }
  return chosen;
}

/** As many of the records, from the first on, as one request may hold. */
export function cut<T extends Waiting>(rows: T[], most = MOST_BYTES): T[] {
  let bytes = 0;
  const end = rows.findIndex((row, n) => {
    bytes += JSON.stringify(row.record).length;
    return n > 0 && bytes > most;
  });
  return end < 0 ? rows : rows.slice(0, end);
}

/** Records that change more of what this device keeps than how much has arrived. */
const CHANGES_MORE = new Set<string>(["job", "file", "revision", "sign_off"]);

/** Whether a refusal may be the fault of what was sent, so that sending less of it finds out. */
const ofWhatWasSent = (problem: Problem) => [400, 413, 422, 500].includes(problem.status);

export class Sender {
  state: SenderState = { silent: false, signedOut: false, sending: false, trouble: "", oldRules: false };
  private readonly device: Device;
  readonly coreVersion: string;
  private readonly post: Post;
  private readonly stillMe: () => Promise<boolean>;
  private readonly me: string;
  private readonly copy: (job: string) => Promise<JobCopy>;
  private readonly postFile: typeof sendFile;
  private readonly listeners = new Set<() => void>();
  private timer: ReturnType<typeof setTimeout> | undefined;
  private retryMs = FIRST_RETRY_MS;
  private running = false;
  private again = false;
  /** How many records go at once; fewer after a refusal of them all, until they have gone through. */
  private most = BATCH;
  private readonly stumbles = new Map<string, { times: number; arrivals: number }>();
  /** Records the server has just stumbled over: the others go first. */
  private readonly aside = new Set<string>();
  private arrivals = 0;
  private stopped = false;

  /** stillMe asks who is signed in, and says whether it is this device's person, whose name is `me`. */
  constructor(
    device: Device,
    coreVersion: string,
    stillMe: () => Promise<boolean>,
    post?: Post,
    me = "",
    copy = (job: string) => copyOf(job, "", true),
    postFile = sendFile,
  ) {
    this.device = device;
    this.stillMe = stillMe;
    this.coreVersion = coreVersion;
    this.me = me;
    this.copy = copy;
    this.postFile = postFile;
    this.post =
      post ??
      ((records, epoch) =>
        answer(
          api.POST("/api/outbox", {
            body: {
              person: device.person,
              core_version: coreVersion,
              sent_at: Date.now() / 1000,
              epoch,
              records: records as never,
            },
          }),
        ));
  }

  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
  readonly get = () => this.state;

  private set(change: Partial<SenderState>) {
    this.state = { ...this.state, ...change };
    for (const listener of this.listeners) listener();
  }

  /** Something may be there to send, or the way may be open again. */
  readonly wake = () => {
    this.retryMs = FIRST_RETRY_MS;
    clearTimeout(this.timer);
    void this.run();
  };

  /** The browser itself knows that there is no way out. */
  readonly lostSignal = () => this.set({ silent: true });

  signedIn(yes: boolean) {
    this.set({ signedOut: !yes });
    if (yes) this.wake();
  }

  stop() {
    this.stopped = true;
    clearTimeout(this.timer);
  }

  private later(ms: number) {
    clearTimeout(this.timer);
    if (!this.stopped) this.timer = setTimeout(() => void this.run(), ms);
  }

  private retryLater() {
    this.later(this.retryMs);
    this.retryMs = Math.min(LAST_RETRY_MS, this.retryMs * 2);
  }

  private async run(): Promise<void> {
    if (this.running) {
      this.again = true;
      return;
    }
    this.running = true;
    try {
      // Two tabs of one person take turns; without the lock a record could be sent twice, which does no harm.
      if (navigator.locks) await navigator.locks.request(`ofen-outbox-${this.device.person}`, () => this.drain());
      else await this.drain();
    } catch (problem) {
      // Nothing that was foreseen: what waits is kept, and tried again.
      console.error(problem);
      this.set({ trouble: t`Your records were not sent. They are saved on this device. ${String(problem)}` });
      this.retryLater();
    } finally {
      this.running = false;
      this.set({ sending: false });
    }
    if (this.again) {
      this.again = false;
      void this.run();
    }
  }

  /** After the server has gone back to an older moment: look at what it has of each job here, and queue what it lacks. */
  private async offerAgain(): Promise<boolean> {
    for (const job of await this.device.db.jobs.filter((j) => j.toOffer === true).toArray()) {
      try {
        await this.device.offerAgain(job.id, await this.copy(job.id), this.me);
      } catch (problem) {
        if (!(problem instanceof Problem)) throw problem;
        if (problem.status !== 404) {
          await this.failed(problem);
          return false;
        }
        await this.device.offerAgain(job.id, null, this.me);
      }
    }
    return true;
  }

  private async drain(): Promise<void> {
    while (!this.stopped && !this.state.signedOut) {
      if (!(await this.offerAgain())) return;
      const rows = await this.device.db.outbox.orderBy("seq").toArray();
      const now = Date.now();
      const apart = rows.map((r) => (this.aside.has(r.id) ? { ...r, stuck: "refused" as const } : r));
      const file = sendable(apart, now).find(isFile);
      if (file) {
        if (!(await this.sendFile(file))) return;
        continue;
      }
      const batch = cut(sendable(apart, now, this.most).filter(isRow));
      // Whatever it stumbled over before: nothing waits any more.
      if (rows.length === 0) this.set({ trouble: "" });
      if (batch.length === 0) {
        if (this.aside.size > 0) {
          this.aside.clear();
          this.retryLater();
          return;
        }
        await sendPhotos(this.device);
        // What was not ready when it was looked at may be by now, for pictures take their time.
        const soonest = Math.min(...rows.filter((r) => r.stuck === null && r.readyAt > now).map((r) => r.readyAt));
        if (Number.isFinite(soonest)) this.later(Math.max(50, soonest - Date.now()));
        return;
      }
      if (!(await this.send(batch))) return;
    }
  }

  /** Send a job file; false where there is no use in going on now. */
  private async sendFile(row: FileRow): Promise<boolean> {
    this.set({ sending: true });
    const [kept] = await Promise.all([this.device.db.files.get(row.id), this.sealed([row])]);
    if (this.stopped) return false;
    try {
      await this.postFile(this.device.person, row.id, kept?.name ?? "job.zip", kept?.content ?? new ArrayBuffer(0));
      this.arrivals += await this.settle([row], [{ id: row.id, outcome: "kept", device_agrees: null, problem: null }]);
      this.set({ silent: false, trouble: "" });
      return true;
    } catch (problem) {
      if (!(problem instanceof Problem)) throw problem;
      const isMine = problem.status === 403 && (await this.stillMe());
      if ((isMine || problem.status === 409 || ofWhatWasSent(problem)) && (await this.setAside([row], problem))) return true;
      await this.failed(problem);
      return false;
    }
  }

  /** Send one batch; false where there is no use in going on now. */
  private async send(chosen: Row[]): Promise<boolean> {
    this.set({ sending: true });
    const batch = (await this.sealed(chosen)).filter(isRow);
    try {
      const records = await Promise.all(batch.map((w) => withDigest(w.record)));
      // A digest takes its time; whoever has left this device meanwhile sends nothing more from it.
      if (this.stopped) return false;
      const got = await this.post(records, await this.device.epoch());
      const arrived = await this.settle(batch, got.results);
      this.set({
        silent: false,
        trouble: "",
        oldRules: got.core_version !== this.coreVersion || got.results.some((r) => r.device_agrees === false),
      });
      this.retryMs = FIRST_RETRY_MS;
      this.most = Math.min(BATCH, this.most * 2);
      this.arrivals += arrived;
      return arrived > 0 || got.results.some((r) => r.outcome === "conflict" || r.outcome === "refused");
    } catch (problem) {
      if (!(problem instanceof Problem)) throw problem;
      if (problem.epoch !== null) {
        await this.device.meet(problem.epoch);
        return true;
      }
      if (ofWhatWasSent(problem) && batch.length > 1) {
        this.most = Math.ceil(batch.length / 2);
        return true;
      }
      if (ofWhatWasSent(problem) && (await this.setAside(batch, problem))) return true;
      await this.failed(problem);
      return false;
    }
  }

  /** Mark records as sent and read them in one step: what was typed since they were chosen goes along, what is typed later is a record of its own. */
  private async sealed(chosen: Waiting[]): Promise<Waiting[]> {
    const { outbox } = this.device.db;
    const seqs = chosen.flatMap((w) => (w.seq === undefined ? [] : [w.seq]));
    return this.device.db.transaction("rw", outbox, async () => {
      await outbox.where("seq").anyOf(seqs).modify({ attempted: 1 });
      return outbox.where("seq").anyOf(seqs).sortBy("seq");
    });
  }

  /** Set one record aside that cannot be sent, so that those behind it go on; one the server stumbles over gets a few tries. */
  private async setAside([row]: Waiting[], problem: Problem): Promise<boolean> {
    if (!row) return false;
    // Whoever refuses answers.
    this.set({ silent: false });
    if (problem.status === 500) {
      // A server that stumbles over everything is ill; the record is at fault only where others go through.
      const known = this.stumbles.get(row.id);
      const times = (known?.times ?? 0) + (known && known.arrivals === this.arrivals ? 0 : 1);
      this.stumbles.set(row.id, { times, arrivals: this.arrivals });
      if (times <= MOST_STUMBLES) {
        this.aside.add(row.id);
        this.set({ trouble: `${problem.message}. ${problem.detail}` });
        return true;
      }
    }
    const told = {
      type: "about:blank",
      status: problem.status,
      title: problem.message,
      detail: problem.detail,
      faults: problem.faults,
    };
    await this.settle([row], [{ id: row.id, outcome: "refused", device_agrees: null, problem: told }]);
    return true;
  }

  private async failed(problem: Problem) {
    if ((problem.status === 401 || problem.status === 403) && !(await this.stillMe())) {
      this.set({ signedOut: true, silent: false });
      return;
    }
    this.set({ silent: problem.status === 0, trouble: problem.status === 0 ? "" : `${problem.message}. ${problem.detail}` });
    this.retryLater();
  }

  /** Take note of what became of each record; returns how many arrived. */
  private async settle(batch: Waiting[], results: OutboxResult[]): Promise<number> {
    const { db } = this.device;
    const byId = new Map(results.map((r) => [r.id, r]));
    const kept = batch.filter((row) => byId.get(row.id)?.outcome === "kept");
    const records = kept.filter(({ record }) => record.kind === "event" || record.kind === "entry").map((row) => row.id);
    await db.transaction("rw", [db.jobs, db.runs, db.records, db.outbox, db.files], async () => {
      await db.outbox.bulkDelete(kept.flatMap((row) => (row.seq === undefined ? [] : [row.seq])));
      await db.records.where("id").anyOf(records).modify({ sent: 1, refusal: null });
      await this.counted(kept);
      // Only what changes more than a count is awaited: a transaction outlives no long chain of empty waits.
      for (const row of kept.filter((r) => CHANGES_MORE.has(r.record.kind))) await this.arrived(row);
      for (const row of batch) {
        const result = byId.get(row.id);
        if (result && row.seq !== undefined && (result.outcome === "conflict" || result.outcome === "refused"))
          await this.heldBack(row, row.seq, result);
      }
    });
    for (const row of batch) if (byId.get(row.id)?.outcome === "conflict") await this.device.mergeByItself(row.job);
    return kept.length;
  }

  /** Count what arrived of each job, once a job: each time the job is written as a whole, with its plan. */
  private async counted(rows: Waiting[]) {
    const counts = new Map<string, number>();
    for (const { job } of rows) counts.set(job, (counts.get(job) ?? 0) + 1);
    await this.device.db.jobs
      .where("id")
      .anyOf([...counts.keys()])
      .modify((kept) => {
        kept.arrivals = (kept.arrivals ?? 0) + (counts.get(kept.id) ?? 0);
      });
  }

  private async arrived({ job, record }: Waiting) {
    const { db } = this.device;
    if (record.kind === "revision") await this.device.arrivedAs(job, record.id, record.document);
    else if (record.kind === "job" || record.kind === "file") {
      await db.jobs.update(job, { base: { revisionId: record.revision_id, document: record.document } });
      await db.files.delete(job);
    } else if (record.kind === "sign_off")
      await db.runs
        .where("id")
        .equals(record.run)
        .modify((run) => {
          run.signed ??= run.signedHere;
          run.signedHere = null;
        });
  }

  private async heldBack(row: Waiting, seq: number, result: OutboxResult) {
    const { db } = this.device;
    const { record } = row;
    const problem = result.problem ?? null;
    const theirs = problem?.theirs as
      { document: Document; revision: number; revision_id: string; author: string } | null | undefined;
    if (result.outcome === "conflict" && theirs) {
      const conflict: Theirs = {
        document: theirs.document,
        revisionId: theirs.revision_id,
        revision: theirs.revision,
        author: theirs.author,
      };
      await db.jobs.update(row.job, { conflict });
      await db.outbox.update(seq, { stuck: "conflict" });
      return;
    }
    if (record.kind === "sign_off") {
      const refusedAt = (await db.runs.get(record.run))?.signedHere?.at ?? record.at ?? null;
      await db.runs.update(record.run, { signedHere: null, refusal: problem, refusedAt });
      await db.outbox.delete(seq);
      return;
    }
    if (record.kind === "event" || record.kind === "entry") await db.records.update(record.id, { refusal: problem });
    await db.outbox.update(seq, { stuck: "refused", problem });
    if (record.kind === "job" || record.kind === "revision") await this.device.mendRefused(row);
  }
}

async function withDigest(record: WireRecord): Promise<WireRecord> {
  return record.kind === "job" || record.kind === "revision"
    ? { ...record, plan_digest: await planDigest(record.document) }
    : record;
}
