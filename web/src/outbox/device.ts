// What can be done on this device, with or without signal. Each step writes the state and what waits for the server in one transaction.
import Dexie from "dexie";
import { v7 as uuidv7 } from "uuid";
import type { Answers, Entry, Forecast, JobCopy, JobLine, Plan, Procedure, Signed } from "../api/client";
import { type Document, type Json, at } from "../job/document";
import { type Edit, withEdits } from "../job/edits";
import { type Side, compare, differences, merged } from "../job/merge";
import { DeviceDb, type FileRecord, type KeptFile, type KeptJob, type RecordBody, type Waiting, type WireRecord } from "./db";
import { stamp } from "./time";

export const TYPING_MS = 700;
const MOST_JOBS = 40;

/** A job as it begins on this device, nothing of it known to the server. */
const keptHere = (id: string, document: Document, head: string): KeptJob => ({
  id,
  document,
  head,
  base: null,
  conflict: null,
  drafts: {},
  openedAt: Date.now(),
  pinned: false,
});

/** From when on a device has a log: what it has asked for beyond the newest part stays. */
const earlier = (kept: string | null | undefined, told: string | null): string | null =>
  told === null || kept === null ? null : kept !== undefined && kept < told ? kept : told;

/** The forecast that was issued last; one fetched here may be newer than what a copy brings. */
const newestOf = (kept: Forecast | null | undefined, told: Forecast | null | undefined): Forecast | null =>
  told && (!kept || Date.parse(told.issued_at) >= Date.parse(kept.issued_at)) ? told : (kept ?? null);

const MOST_MINE = 200;

/** What of this person's somebody else has changed, by a newer document of theirs. */
function changedSince(kept: KeptJob, revisionId: string, document: Document, author: string): Partial<KeptJob> {
  if (kept.base?.revisionId === revisionId) return {};
  const mine = Object.entries(kept.mine ?? {});
  const says = (value: Json | undefined) => JSON.stringify(value ?? null);
  const changes = mine
    .filter(([path, value]) => says(at(document, path)) !== says(value) && says(at(kept.document, path)) === says(value))
    .map(([path, value]) => ({ path, before: value, after: at(document, path) ?? null }));
  const gone = new Set(changes.map((c) => c.path));
  return {
    mine: Object.fromEntries(mine.filter(([path]) => !gone.has(path))),
    ...(changes.length > 0 ? { news: { author, kind: "changed", changes } } : {}),
  };
}

export class Device {
  readonly person: number;
  readonly db: DeviceDb;
  /** Whether something has waited here since the page was loaded. */
  emptied = false;

  constructor(person: number) {
    this.person = person;
    this.db = new DeviceDb(person);
  }

  private get all() {
    const { jobs, runs, records, outbox, photos, files } = this.db;
    return [jobs, runs, records, outbox, photos, files] as const;
  }

  private queue(job: string, record: WireRecord | FileRecord, readyAt = 0): Promise<number> {
    return this.db.outbox.add({ id: record.id, job, record, attempted: 0, readyAt, stuck: null, problem: null });
  }

  private async waitingRevisions(job: string): Promise<Waiting[]> {
    const rows = await this.db.outbox.where("job").equals(job).sortBy("seq");
    return rows.filter((w) => w.record.kind === "job" || w.record.kind === "revision");
  }

  /** Meet the server's database: if it has gone back to an older moment since, every job here is to be offered again. */
  async meet(epoch: string): Promise<void> {
    await this.db.transaction("rw", this.db.facts, this.db.jobs, this.db.photos, async () => {
      const known = await this.db.facts.get("epoch");
      if (known?.value === epoch) return;
      await this.db.facts.put({ key: "epoch", value: epoch });
      if (!known) return;
      await this.db.jobs.toCollection().modify({ toOffer: true });
      await this.db.photos.where("sent").equals(1).modify({ sent: 0 });
    });
  }

  async epoch(): Promise<string | null> {
    return (await this.db.facts.get("epoch"))?.value ?? null;
  }

  /**
   * Offer again what this device holds of a job and the server has lost; `copy` is all the server has of it, null if nothing.
   * What waited already comes after it. A document on which others have gone on from an older state becomes a conflict.
   */
  async offerAgain(id: string, copy: JobCopy | null, me: string): Promise<void> {
    await this.db.transaction("rw", this.all, async () => {
      const job = await this.db.jobs.get(id);
      if (!job?.toOffer) return;
      const waiting = await this.db.outbox.where("job").equals(id).sortBy("seq");
      // A file that the server has not made a job of yet brings all of it.
      if (waiting.some((w) => w.record.kind === "file")) {
        await this.db.jobs
          .where("id")
          .equals(id)
          .modify((kept) => void delete kept.toOffer);
        return;
      }
      await this.db.outbox.where("job").equals(id).delete();
      const runsOn = await this.offerDocument(job, copy);
      await this.offerRecords(job.id, copy, runsOn, me, new Set(waiting.map((w) => w.id)));
      for (const { seq: _, ...row } of waiting) {
        const again = row.stuck === "refused" && row.problem?.status === 404;
        await this.db.outbox.add(again ? { ...row, stuck: null, problem: null } : row);
      }
      await this.db.jobs
        .where("id")
        .equals(id)
        .modify((kept) => {
          delete kept.toOffer;
          delete kept.mark;
        });
    });
  }

  /** Queue the document where the server's is older or lost; returns the revision that runs offered again stand on. */
  private async offerDocument({ id, base }: KeptJob, copy: JobCopy | null): Promise<string> {
    const there = copy?.job.revision_id ?? "";
    if (!base || base.revisionId === there) return there;
    const { revisionId, document } = base;
    if (!copy) await this.queue(id, { kind: "job", id, revision_id: revisionId, document });
    else if (madeAt(revisionId) > madeAt(there))
      await this.queue(id, { kind: "revision", id: revisionId, job: id, based_on: there, document });
    else {
      // Either the server has gone past it, and knows it; or others went on from before it, and a person must decide.
      await this.queue(id, { kind: "revision", id: revisionId, job: id, based_on: revisionId, document });
      await this.db.jobs.update(id, { base: null });
      return there;
    }
    return revisionId;
  }

  private async offerRecords(job: string, copy: JobCopy | null, runsOn: string, me: string, waiting: Set<string>): Promise<void> {
    const known = new Map(copy?.runs.map((r) => [r.id, r]));
    const there = new Set(
      [...(copy?.entries ?? []), ...(copy?.runs ?? []).flatMap((r) => r.events)].map((body) => String(body["id"])),
    );
    const lost = (await this.db.records.where("job").equals(job).sortBy("at")).filter((r) => r.sent === 1 && !there.has(r.id));
    for (const run of await this.db.runs.where("job").equals(job).sortBy("begunAt")) {
      if (!known.has(run.id) && run.procedure && !waiting.has(run.id))
        await this.queue(job, {
          kind: "run",
          id: run.id,
          job,
          unit: run.unit,
          revision_id: runsOn,
          procedure: run.procedure,
          at: run.begunAt,
          offered_again: true,
        });
      for (const r of lost.filter((e) => e.owner === run.id))
        await this.queue(job, { kind: "event", id: r.id, run: run.id, body: r.body });
      // Nobody signs for somebody else: another's sign-off is theirs to offer, or to give anew.
      if (run.signed && !known.get(run.id)?.signed) {
        const mine = run.signed.by === me;
        if (mine) await this.queue(job, { kind: "sign_off", id: uuidv7(), run: run.id, at: run.signed.at });
        await this.db.runs.update(run.id, { signed: null, signedHere: mine ? run.signed : null });
      }
    }
    for (const r of lost.filter((e) => e.kind === "entry")) await this.queue(job, { kind: "entry", id: r.id, job, body: r.body });
    await this.db.records
      .where("id")
      .anyOf(lost.map((r) => r.id))
      .modify({ sent: 0 });
  }

  /** Make a job here; it reaches the server when there is signal. */
  async makeJob(document: Document): Promise<string> {
    const id = uuidv7();
    const head = uuidv7();
    await this.db.transaction("rw", this.all, async () => {
      await this.db.jobs.add(keptHere(id, document, head));
      await this.queue(id, { kind: "job", id, revision_id: head, document });
    });
    return id;
  }

  /** Make the job of a file that was looked at wholly; the file goes to the server when there is signal, what is done meanwhile behind it. */
  async bringIn(file: KeptFile, made: Answers<"bring_in">, pictures: ReadonlyMap<string, ArrayBuffer>): Promise<void> {
    const last = made.documents.at(-1);
    if (!last) throw new Error("a file without a document");
    const { id } = file;
    const { at } = stamp();
    await this.db.transaction("rw", this.all, async () => {
      await this.db.files.put(file);
      const document = last.document as Document;
      await this.db.jobs.add(keptHere(id, document, last.id));
      await this.queue(id, { kind: "file", id, revision_id: last.id, document });
      for (const run of made.runs) {
        const events = run.events as RecordBody[];
        await this.db.runs.add({
          id: run.id,
          job: id,
          unit: run.unit,
          begunAt: at,
          procedure: run.procedure,
          signed: null,
          signedHere: null,
          refusal: null,
          newestMs: Math.max(0, ...events.map(orderMs)),
        });
        await this.keepSent("event", id, run.id, events);
      }
      await this.keepSent("entry", id, id, made.entries as RecordBody[]);
      for (const [photo, picture] of pictures)
        if (!(await this.db.photos.get(photo))) await this.db.photos.add({ id: photo, job: id, picture, sent: 1 });
    });
  }

  /** The server gives this job to the person no more: forget it, unless something of it still waits, which is told. */
  async lost(id: string): Promise<void> {
    if (!(await this.forget(id))) await this.db.jobs.update(id, { gone: true });
  }

  /** Let a job go with all that waits of it; the person has been told what that is. */
  async letGo(id: string): Promise<void> {
    await this.db.transaction("rw", this.all, async () => {
      await this.db.outbox.where("job").equals(id).delete();
      await this.db.files.delete(id);
      await this.drop(id);
    });
  }

  /** Apply edits to the job as it stands now, whoever else has changed it in between, and queue them as a revision. */
  async edit(id: string, edits: Edit[], now = Date.now()): Promise<void> {
    await this.db.transaction("rw", this.all, async () => {
      const job = await this.db.jobs.get(id);
      if (!job) throw new Error(`job ${id} is not on this device`);
      const { document, drafts } = withEdits(job, edits);
      const head = await this.revise(job, document, now);
      await this.db.jobs.update(id, { document, drafts, head });
    });
  }

  /** Queue a document: into the revision still being typed, else as a new one. Returns the id of the newest revision. */
  private async revise(job: KeptJob, document: Document, now: number): Promise<string> {
    const last = (await this.waitingRevisions(job.id)).at(-1);
    if (last && last.seq !== undefined && !last.attempted && !(await this.isNeeded(last))) {
      await this.db.outbox.update(last.seq, {
        "record.document": document,
        readyAt: now + TYPING_MS,
        stuck: null,
        problem: null,
      } as Partial<Waiting>);
      return last.record.kind === "job" ? last.record.revision_id : last.id;
    }
    if (last?.stuck === "refused") return this.inPlaceOf(last, document, now + TYPING_MS);
    const id = uuidv7();
    await this.queue(job.id, { kind: "revision", id, job: job.id, based_on: job.head, document }, now + TYPING_MS);
    return id;
  }

  /** Let what was begun by, or builds on, one revision stand on another. */
  private async standOn(job: string, was: string, now: string): Promise<void> {
    await this.db.outbox
      .where("job")
      .equals(job)
      .modify(({ record }) => {
        if (record.kind === "run" && record.revision_id === was) record.revision_id = now;
        if (record.kind === "revision" && record.based_on === was) record.based_on = now;
      });
  }

  /** Let a corrected document take the place of a record refused for what it says; what builds on it follows. Returns the new revision. */
  async inPlaceOf(refused: Waiting, document: Document, readyAt = 0): Promise<string> {
    const { record } = refused;
    if (refused.seq === undefined || (record.kind !== "job" && record.kind !== "revision"))
      throw new Error("only a document can be corrected");
    const again = uuidv7();
    const was = record.kind === "job" ? record.revision_id : record.id;
    const made: WireRecord =
      record.kind === "job" ? { ...record, revision_id: again, document } : { ...record, id: again, document };
    await this.db.outbox.update(refused.seq, { id: made.id, record: made, attempted: 0, readyAt, stuck: null, problem: null });
    await this.standOn(refused.job, was, again);
    await this.db.jobs
      .where("id")
      .equals(refused.job)
      .modify((job) => {
        if (job.head === was) job.head = again;
      });
    return again;
  }

  /** What was typed while a document was on its way that was refused takes its place: the newest of it is all there is to send. */
  async mendRefused(refused: Waiting): Promise<void> {
    const later = (await this.waitingRevisions(refused.job)).filter((w) => (w.seq ?? 0) > (refused.seq ?? 0));
    const newest = later.at(-1);
    if (!newest || (newest.record.kind !== "job" && newest.record.kind !== "revision")) return;
    const again = await this.inPlaceOf(refused, newest.record.document, newest.readyAt);
    for (const w of later) {
      await this.standOn(refused.job, w.id, again);
      if (w.seq !== undefined) await this.db.outbox.delete(w.seq);
    }
    await this.db.jobs.update(refused.job, { head: again });
  }

  /** Send a refused record again, as it is: what it was refused for may have been mended elsewhere. */
  async sendAgain(id: string): Promise<void> {
    await this.db.transaction("rw", this.all, async () => {
      await this.db.outbox.where("id").equals(id).modify({ stuck: null, problem: null, attempted: 0, readyAt: 0 });
      await this.db.records.where("id").equals(id).modify({ refusal: null });
    });
  }

  /** How often something of a job has arrived at the server: a copy asked for before the last time is older than what is here. */
  async arrivals(id: string): Promise<number> {
    return (await this.db.jobs.get(id))?.arrivals ?? 0;
  }

  /** Put a job kept by an older version of Ofen into today's format; what waits to be sent stays as it is. */
  async upgrade(id: string, today: string, todays: (document: Document) => Promise<Document>): Promise<void> {
    const job = await this.db.jobs.get(id);
    if (!job || job.document["format"] === today) return;
    const document = await todays(job.document);
    const base = job.base && { ...job.base, document: await todays(job.base.document) };
    const conflict = job.conflict && { ...job.conflict, document: await todays(job.conflict.document) };
    await this.db.transaction("rw", this.db.jobs, async () => {
      const now = await this.db.jobs.get(id);
      if (JSON.stringify(now?.document) === JSON.stringify(job.document))
        await this.db.jobs.update(id, { document, base, conflict });
    });
  }

  /** Whether a commissioning run was begun by this revision. */
  private async isNeeded(revision: Waiting): Promise<boolean> {
    const uid = revision.record.kind === "job" ? revision.record.revision_id : revision.id;
    const rows = await this.db.outbox.where("job").equals(revision.job).toArray();
    return rows.some((w) => w.record.kind === "run" && w.record.revision_id === uid);
  }

  /** Keep a text that is no value yet; null forgets it. */
  async draft(id: string, path: string, text: string | null): Promise<void> {
    await this.db.transaction("rw", this.db.jobs, async () => {
      const job = await this.db.jobs.get(id);
      if (!job) return;
      const { [path]: _, ...drafts } = job.drafts;
      await this.db.jobs.update(id, { drafts: text === null ? drafts : { ...drafts, [path]: text } });
    });
  }

  /** Begin commissioning a machine by the job as it stands here, sealed with its procedure. */
  async beginRun(jobId: string, unit: string, procedure: Procedure): Promise<string> {
    const id = uuidv7();
    await this.db.transaction("rw", this.all, async () => {
      const job = await this.db.jobs.get(jobId);
      if (!job) throw new Error(`job ${jobId} is not on this device`);
      for (const w of await this.waitingRevisions(jobId))
        if (w.seq !== undefined) await this.db.outbox.update(w.seq, { readyAt: 0 });
      const { at } = stamp();
      await this.db.runs.add({ id, job: jobId, unit, begunAt: at, procedure, signed: null, signedHere: null, refusal: null });
      await this.queue(jobId, { kind: "run", id, job: jobId, unit, revision_id: job.head, procedure, at });
    });
    return id;
  }

  /** Record an event of a run, after all that this device knows of it, whatever its clock says. */
  async recordEvent(job: string, run: string, body: RecordBody): Promise<void> {
    await this.db.transaction("rw", this.all, async () => {
      const newest = (await this.db.runs.get(run))?.newestMs ?? 0;
      const made = { ...body, after_ms: newest };
      await this.record("event", job, run, [made]);
      await this.db.runs.update(run, { newestMs: orderMs(made) });
    });
  }

  /** Somebody has read that the server did not take a sign-off. */
  async refusalRead(run: string): Promise<void> {
    await this.db.runs.update(run, { refusal: null, refusedAt: null });
  }

  /** Keep a picture of a job; it is sent when there is signal. */
  async keepPhoto(job: string, picture: ArrayBuffer): Promise<string> {
    const id = uuidv7();
    await this.db.photos.add({ id, job, picture, sent: 0 });
    return id;
  }

  /** Record entries of a job's log. */
  async recordEntries(job: string, bodies: RecordBody[]): Promise<void> {
    await this.record("entry", job, job, bodies);
  }

  private async record(kind: "event" | "entry", job: string, owner: string, bodies: RecordBody[]): Promise<void> {
    const { records, outbox } = this.db;
    await this.db.transaction("rw", records, outbox, async () => {
      // All asked for before any is waited for: the database keeps their order.
      const asked = bodies.flatMap((body) => [
        records.add({ id: body.id, kind, job, owner, at: body.at, body, sent: 0, refusal: null }),
        this.queue(job, kind === "event" ? { kind, id: body.id, run: owner, body } : { kind, id: body.id, job, body }),
      ]);
      await Promise.all<unknown>(asked);
    });
  }

  /** Take back a record that the server has refused; the person has read why. */
  async discardRefused(id: string): Promise<void> {
    await this.db.transaction("rw", this.all, async () => {
      await this.db.records.delete(id);
      await this.db.outbox.where("id").equals(id).delete();
    });
  }

  /** Sign a run off here; the server confirms it by its own look at the gates. */
  async signOff(job: string, run: string, by: string): Promise<void> {
    await this.db.transaction("rw", this.all, async () => {
      const { at } = stamp();
      const signedHere: Signed = { by, at, server_at: at, seal: "" };
      await this.db.runs.update(run, { signedHere, refusal: null, refusedAt: null });
      await this.queue(job, { kind: "sign_off", id: uuidv7(), run, at });
    });
  }

  /** Keep a forecast that was fetched for a job. */
  async keepWeather(job: string, weather: Forecast): Promise<void> {
    await this.db.jobs.update(job, { weather });
  }

  /**
   * Take in what the server has of a job; what was made here and still waits stays as it is. `asked` is `arrivals` when the copy
   * was asked for: a slow one that a save has overtaken rolls nothing back.
   */
  async takeIn(copy: JobCopy, opened = true, asked: number | null = null): Promise<void> {
    const { id, revision_id: revisionId } = copy.job;
    const document = copy.job.document as Document;
    await this.meet(copy.epoch);
    await this.db.transaction("rw", this.all, async () => {
      const kept = await this.db.jobs.get(id);
      if (kept?.toOffer) return;
      const waits = (await this.waitingRevisions(id)).length > 0 || (asked !== null && (kept?.arrivals ?? 0) !== asked);
      const openedAt = opened ? Date.now() : (kept?.openedAt ?? 0);
      const { role, filed, signed: signedOff, weather } = copy.job;
      const told = { role, filed, signedOff, gone: false, weather: newestOf(kept?.weather, weather) };
      if (!kept)
        await this.db.jobs.add({ ...keptHere(id, document, revisionId), ...told, base: { revisionId, document }, openedAt });
      else if (waits) await this.db.jobs.update(id, { openedAt, ...told });
      else
        await this.db.jobs.update(id, {
          ...told,
          document,
          head: revisionId,
          base: { revisionId, document },
          conflict: null,
          openedAt,
          ...changedSince(kept, revisionId, document, copy.job.author),
        });
      for (const run of copy.runs) {
        const here = await this.db.runs.get(run.id);
        await this.db.runs.put({
          id: run.id,
          job: id,
          unit: run.unit,
          begunAt: run.begun_at,
          procedure: run.procedure,
          signed: run.signed,
          signedHere: run.signed ? null : (here?.signedHere ?? null),
          refusal: here?.refusal ?? null,
          newestMs: Math.max(here?.newestMs ?? 0, ...(run.events as RecordBody[]).map(orderMs)),
        });
        await this.keepSent("event", id, run.id, run.events as RecordBody[]);
      }
      await this.keepSent("entry", id, id, copy.entries);
      await this.db.jobs.update(id, {
        mark: copy.mark,
        unreadable: copy.unreadable,
        logFrom: earlier(kept?.logFrom, copy.log_begins_at),
      });
    });
  }

  /** Keep older entries of a long log, which were asked for. */
  async takeOlder(job: string, bodies: RecordBody[]): Promise<void> {
    await this.db.transaction("rw", this.all, async () => {
      await this.keepSent("entry", job, job, bodies);
      await this.db.jobs.update(job, { logFrom: bodies.at(-1)?.at ?? null });
    });
  }

  private async keepSent(kind: "event" | "entry", job: string, owner: string, bodies: RecordBody[]): Promise<void> {
    await this.db.records.bulkPut(
      bodies.map((body) => ({ id: body.id, kind, job, owner, at: body.at, body, sent: 1 as const, refusal: null })),
    );
  }

  /** Keep the plan made last, so that the next opening has an answer before the rules are up. */
  async keepPlan(id: string, document: Document, plan: Plan): Promise<void> {
    await this.db.jobs.update(id, { plan, planOf: JSON.stringify(document) });
  }

  async pin(id: string, pinned: boolean): Promise<void> {
    await this.db.jobs.update(id, { pinned });
  }

  /** Forget a job the server no longer shows to this person, unless something of it still waits. */
  async forget(id: string): Promise<boolean> {
    return this.db.transaction("rw", this.all, async () => {
      if ((await this.db.outbox.where("job").equals(id).count()) > 0 || (await this.db.jobs.get(id))?.toOffer) return false;
      if (
        (await this.db.photos
          .where("job")
          .equals(id)
          .and((p) => p.sent !== 1)
          .count()) > 0
      )
        return false;
      await this.drop(id);
      return true;
    });
  }

  /** Within a transaction: delete all that is kept here of a job. */
  private async drop(id: string): Promise<void> {
    await this.db.jobs.delete(id);
    for (const table of [this.db.photos, this.db.runs, this.db.records]) await table.where("job").equals(id).delete();
  }

  /** Keep the pinned jobs and those opened last; nothing that waits is ever dropped. */
  async tidy(): Promise<void> {
    const jobs = (await this.db.jobs.toArray()).filter((j) => !j.pinned).sort((a, b) => b.openedAt - a.openedAt);
    for (const old of jobs.slice(MOST_JOBS)) await this.forget(old.id);
  }

  async keepList(lines: JobLine[]): Promise<void> {
    await this.db.lists.put({ key: "jobs", lines });
  }

  /**
   * Put together what two have changed where no field was changed by both; false where a person must decide. What the other has
   * changed is told, and can be taken back.
   */
  async mergeByItself(id: string): Promise<boolean> {
    const job = await this.db.jobs.get(id);
    if (!job?.conflict || !job.base) return false;
    const { author, document: theirs } = job.conflict;
    const rows = compare(job.base.document, job.document, theirs);
    const picks = Object.fromEntries(rows.flatMap((r): [string, Side][] => (r.by === "both" ? [] : [[r.path, r.by]])));
    if (Object.keys(picks).length < rows.length) return false;
    await this.settle(id, merged(job.document, theirs, picks));
    const changes = rows
      .filter((r) => r.by === "theirs")
      .map((r) => ({ path: r.path, before: r.mine ?? null, after: r.theirs ?? null }));
    if (changes.length > 0) await this.db.jobs.update(id, { news: { author, kind: "merged", changes } });
    return true;
  }

  /** What somebody else has done was read. */
  async newsRead(id: string): Promise<void> {
    await this.db.jobs.update(id, { news: null });
  }

  /** Within a transaction: a document of this person has arrived; what it has changed is theirs until somebody else changes it. */
  async arrivedAs(id: string, revisionId: string, document: Document): Promise<void> {
    const job = await this.db.jobs.get(id);
    const set = job?.base
      ? differences(job.base.document, document).map((path): [string, Json] => [path, at(document, path) ?? null])
      : [];
    const mine = Object.fromEntries([...Object.entries(job?.mine ?? {}), ...set].slice(-MOST_MINE));
    await this.db.jobs.update(id, { base: { revisionId, document }, mine });
  }

  /** End a conflict with the document made from both. */
  async settle(id: string, both: Document): Promise<void> {
    await this.db.transaction("rw", this.all, async () => {
      const job = await this.db.jobs.get(id);
      if (!job?.conflict) return;
      const { revisionId, document: theirs } = job.conflict;
      const mine = (await this.waitingRevisions(id)).filter((w) => w.record.kind === "revision");
      let head = revisionId;
      // A revision by which a run was begun is kept as it was, now on top of theirs; the others give way to the merged one.
      let lastNeeded = -1;
      for (const [n, w] of mine.entries()) if (await this.isNeeded(w)) lastNeeded = n;
      for (const [n, w] of mine.entries()) {
        if (w.seq === undefined || w.record.kind !== "revision") continue;
        if (n > lastNeeded) await this.db.outbox.delete(w.seq);
        else {
          await this.db.outbox.update(w.seq, { "record.based_on": head, stuck: null, problem: null } as Partial<Waiting>);
          head = w.id;
        }
      }
      if (head !== revisionId || JSON.stringify(both) !== JSON.stringify(theirs)) {
        const next = uuidv7();
        await this.queue(id, { kind: "revision", id: next, job: id, based_on: head, document: both });
        head = next;
      }
      await this.db.jobs.update(id, { document: both, head, base: { revisionId, document: theirs }, conflict: null });
    });
  }

  /** The whole job as a file that can be brought in elsewhere: the way out when nothing else works. */
  async wholeJob(id: string) {
    const job = await this.db.jobs.get(id);
    const runs = await this.db.runs.where("job").equals(id).sortBy("begunAt");
    const bodies = async (owner: string) => (await this.db.records.where("owner").equals(owner).sortBy("at")).map((r) => r.body);
    return {
      format: "ofen-whole-job/1",
      job: job?.document,
      runs: await Promise.all(
        runs.map(async (r) => ({
          id: r.id,
          begun_at: r.begunAt,
          unit: r.unit,
          document: job?.document,
          procedure: r.procedure,
          events: await bodies(r.id),
          signed_off: r.signed ?? r.signedHere,
        })),
      ),
      log: (await bodies(id)) as Entry[],
    };
  }
}

/** The moment by which an event is put in order: its clock, but after all that its device knew. */
export function orderMs(event: RecordBody): number {
  const own = Date.parse(event.at);
  const after = event["after_ms"];
  return typeof after === "number" ? Math.max(own, after + 1) : own;
}

/** When an id was made, in ms, by the clock of whoever made it; 0 where it does not say. */
const madeAt = (id: string) => (id.charAt(14) === "7" ? Number.parseInt(id.replaceAll("-", "").slice(0, 12), 16) : 0);

/** Whether a failure means that this device has no room left. */
export function isFull(problem: unknown): boolean {
  const inner = problem instanceof Dexie.DexieError ? (problem as { inner?: unknown }).inner : undefined;
  return [problem, inner].some(
    (p) => p instanceof Error && (p.name === "QuotaExceededError" || p.message.includes("QuotaExceeded")),
  );
}
