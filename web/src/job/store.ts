// One open job: its document, the answers to it, and where it stands with the server. No React in here.
import { t } from "@lingui/core/macro";
import { liveQuery } from "dexie";
import { type Fault, type Plan, Problem, type Role, type Verdict } from "../api/client";
import { engine, planOf } from "../engine/ask";
import { Stale } from "../engine/engine";
import { planShown } from "../engine/line";
import type { KeptJob, Theirs } from "../outbox/db";
import { type Device, isFull } from "../outbox/device";
import { Journal, type Note, takeNotes } from "../outbox/journal";
import type { Sender } from "../outbox/sender";
import { type Document, type Json, at, byId, listUndone } from "./document";
import { type Edit, withEdits } from "./edits";

export type SaveState = "opening" | "saved" | "saving" | "waiting" | "conflict" | "refused" | "full";

export interface JobState {
  document: Document;
  /** The newest state the server is known to have. */
  base: Document | null;
  plan: Plan | null;
  /** The document that the plan is of. */
  planned: Document | null;
  drafts: Record<string, string>;
  faults: Fault[];
  save: SaveState;
  trouble: string;
  conflict: Theirs | null;
  canUndo: boolean;
}

/** A step back: what stood at a place before an edit, and what the edit put there. */
interface Undo {
  path: string;
  to: string;
  before: Json | undefined;
  after: Json | undefined;
}

interface Row {
  stuck: "conflict" | "refused" | null;
  faults: Fault[];
  title: string;
}

const MOST_UNDO = 100;
const ONE_EDIT_MS = 1500;
const KEEP_PLAN_MS = 1000;
const REST_MS = 150;
const WARM_PLANS = 5;
const TRIES = 3;
const MOST_NOTED = 60;
const noRoom = () =>
  t`This device has no room left, so what you type now is not saved. Save the job to a file before you leave the page.`;

const NONE: Fault[] = [];

/** Whether a part of the state is as it was; the small ones are compared by what they say. */
function alike(was: unknown, is: unknown): boolean {
  if (was === is) return true;
  const isSmall = (v: unknown) =>
    Array.isArray(v) || (typeof v === "object" && v !== null && Object.keys(v).length < 60 && !("format" in v) && !("stages" in v));
  return isSmall(was) && isSmall(is) && JSON.stringify(was) === JSON.stringify(is);
}

const pathsOf = (note: { edits: Edit[] }) => note.edits.map((e) => e.path).join();

/** Keeps a job: edits at once, asks for the plan, keeps it on this device, from where it is sent; loses nothing. */
export class JobStore {
  private state: JobState;
  private readonly listeners = new Set<() => void>();
  private readonly past: Undo[][] = [];
  private edited = { paths: "", at: 0 };
  private writing = 0;
  private looks = 0;
  private rows: Row[] | null = null;
  private full = false;
  private readonly device: Device;
  private readonly sender: Sender;
  private readonly journal: Journal;
  private readonly pending: { edits: Edit[] }[] = [];
  /** What there was no room for. */
  private readonly unwritten: Note[] = [];
  private resting: ReturnType<typeof setTimeout> | undefined;
  private keeping: ReturnType<typeof setTimeout> | undefined;
  private readonly stops: (() => void)[] = [];
  readonly id: string;
  /** What the person may do with this job. */
  readonly role: Role;

  constructor(kept: KeptJob, device: Device, sender: Sender) {
    this.id = kept.id;
    this.role = kept.role ?? "lead";
    this.device = device;
    this.sender = sender;
    this.journal = new Journal(device.person, kept.id);
    // The plan made here last, where it is of this very document by these very rules: it stands until the new one is there.
    const plan = kept.plan?.core_version === sender.coreVersion && kept.planOf === JSON.stringify(kept.document) ? kept.plan : null;
    this.state = {
      document: kept.document,
      base: kept.base?.document ?? null,
      plan,
      planned: plan && kept.document,
      drafts: kept.drafts,
      faults: NONE,
      save: "opening",
      trouble: "",
      conflict: kept.conflict,
      canUndo: false,
    };
    void this.ask();
  }

  /** Follow what this device keeps of the job, other tabs included, until the returned function is called. */
  open(): () => void {
    const left = takeNotes(this.device.person, this.id);
    // What a tab that was closed had still under its hands is under the hands here.
    const texts = left.flatMap((n): [string, string][] => ("draft" in n && n.text !== null ? [[n.draft, n.text]] : []));
    if (texts.length > 0) this.set({ drafts: { ...this.state.drafts, ...Object.fromEntries(texts) } });
    void this.write(...left);
    if (engine().state !== "up") this.stops.push(engine().subscribe(() => engine().state === "up" && void this.afresh()));
    const hide = () => void this.flush();
    globalThis.addEventListener("pagehide", hide);
    this.stops.push(hide, () => globalThis.removeEventListener("pagehide", hide));
    const job = liveQuery(() => this.device.db.jobs.get(this.id)).subscribe((kept) => kept && this.seen(kept));
    // What is new or corrected calls for sending; what was tried is the sender's own affair.
    const rows = liveQuery(() => this.device.db.outbox.where("job").equals(this.id).toArray()).subscribe((found) => {
      void this.look();
      if (found.some((w) => w.stuck === null && w.attempted === 0)) this.sender.wake();
    });
    this.stops.push(
      () => job.unsubscribe(),
      () => rows.unsubscribe(),
      this.sender.subscribe(() => this.place()),
    );
    return () => this.stops.splice(0).forEach((stop) => stop());
  }

  /** See what of the document waits, and what has become of it; of two looks that overtake each other the one begun last counts. */
  private async look(): Promise<void> {
    this.looks += 1;
    const mine = this.looks;
    const found = await this.device.db.outbox.where("job").equals(this.id).toArray();
    if (mine !== this.looks) return;
    this.rows = found
      .filter((w) => w.record.kind === "revision" || w.record.kind === "job")
      .map((w) => ({ stuck: w.stuck, faults: w.problem?.faults ?? [], title: w.problem?.title ?? "" }));
    this.place();
  }

  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
  readonly get = () => this.state;

  private set(change: Partial<JobState>) {
    const changed = (Object.keys(change) as (keyof JobState)[]).some((k) => !alike(this.state[k], change[k]));
    if (!changed) return;
    this.state = { ...this.state, ...change };
    for (const listener of this.listeners) listener();
  }

  /** Take over what stands on this device now, unless an edit of this tab is still on its way there. */
  private seen(kept: KeptJob) {
    const base = kept.base?.document ?? null;
    if (this.writing > 0) {
      this.set({ base, conflict: kept.conflict });
      return;
    }
    const changed = JSON.stringify(kept.document) !== JSON.stringify(this.state.document);
    const drafts = this.draftsBeside(kept);
    this.set({ base, conflict: kept.conflict, drafts, ...(changed ? { document: kept.document } : {}) });
    this.place();
    if (changed) void this.ask();
  }

  /**
   * Texts that are no values yet, beside a state that may come from another tab. Those of the document's fields are this tab's own, and
   * go where another tab has put a value: what is typed in one covers no saved value in the other. All else that is typed is shared.
   */
  private draftsBeside(kept: KeptJob): Record<string, string> {
    const isField = (path: string) => (path.split(/[.[]/)[0] ?? "") in this.state.document;
    const own = Object.entries(this.state.drafts).filter(
      ([path]) => isField(path) && JSON.stringify(at(kept.document, path)) === JSON.stringify(at(this.state.document, path)),
    );
    return Object.fromEntries([...Object.entries(kept.drafts).filter(([path]) => !isField(path)), ...own]);
  }

  /** Say where the job stands with the server. */
  private place() {
    const { silent, signedOut, trouble } = this.sender.get();
    if (this.rows === null) return;
    const refused = this.rows.find((r) => r.stuck === "refused");
    if (this.full) this.set({ save: "full", trouble: noRoom() });
    else if (this.state.conflict) this.set({ save: "conflict", trouble: "" });
    else if (refused) this.set({ save: "refused", trouble: refused.title, faults: refused.faults });
    else if (this.rows.length === 0 && this.writing === 0) this.set({ save: "saved", trouble: "" });
    else this.set({ save: silent || signedOut || trouble ? "waiting" : "saving", trouble });
  }

  /** Put a value at a path; what was typed there before is settled by it. */
  edit(path: string, value: Json) {
    this.editAll([{ path, value }]);
  }

  /** Put several values at once, as one step of undo. */
  editAll(edits: Edit[]) {
    if (this.role === "guest") return;
    const { document } = this.state;
    const addressed = edits.map((e) => ({ ...e, to: byId(document, e.path) }));
    const before = addressed.map(({ path, to, value }): Undo => ({ path, to, before: at(document, to), after: value }));
    // Keys typed in one go in one field are one step of undo.
    const edited = { paths: addressed.map((e) => e.to).join(), at: Date.now() };
    const last = this.past.at(-1);
    if (!last || edited.paths !== this.edited.paths || edited.at - this.edited.at > ONE_EDIT_MS) this.past.push(before);
    else for (const [n, undo] of last.entries()) undo.after = before[n]?.after;
    this.edited = edited;
    if (this.past.length > MOST_UNDO) this.past.shift();
    this.apply(addressed);
  }

  private apply(edits: Edit[]) {
    this.set({ ...withEdits(this.state, edits), faults: NONE, canUndo: this.past.length > 0 });
    void this.ask();
    this.later({ edits });
  }

  /** Note edits at once, and write them into the device store when the keys rest. */
  private later(note: { edits: Edit[] }) {
    if (this.pending.length === 0) this.writing += 1;
    const last = this.pending.at(-1);
    if (last && pathsOf(last) === pathsOf(note)) {
      last.edits = note.edits;
      this.journal.changed();
    } else {
      this.pending.push(note);
      this.journal.note(note);
    }
    clearTimeout(this.resting);
    this.resting = setTimeout(() => void this.flush(), this.pending.length < MOST_NOTED ? REST_MS : 0);
    this.place();
  }

  /** Write what is still only noted; whoever builds on the document waits for this. */
  async flush(): Promise<void> {
    clearTimeout(this.resting);
    const notes = this.pending.splice(0);
    if (notes.length === 0) return;
    this.writing -= 1;
    await this.write(...notes);
  }

  private async write(...given: Note[]) {
    if (given.length === 0) return;
    // What found no room before goes first; of what stands in a field only the newest counts.
    const newest = new Set(given.flatMap((n) => ("draft" in n ? [n.draft] : [])));
    const notes = [...this.unwritten.splice(0).filter((n) => !("draft" in n && newest.has(n.draft))), ...given];
    this.writing += 1;
    this.place();
    try {
      const edits = notes.flatMap((n) => ("edits" in n ? n.edits : []));
      if (edits.length > 0) await this.device.edit(this.id, edits);
      for (const note of notes) if ("draft" in note) await this.device.draft(this.id, note.draft, note.text);
      for (const note of notes) this.journal.done(note);
      this.full = false;
      // It waits from now on, whichever look at the outbox comes back first.
      if (edits.length > 0) this.rows = [...(this.rows ?? []), { stuck: null, faults: NONE, title: "" }];
      await this.look();
    } catch (problem) {
      if (!isFull(problem)) throw problem;
      this.full = true;
      this.unwritten.push(...notes);
    } finally {
      this.writing -= 1;
      this.place();
    }
  }

  /** Keep a text that is no value yet; it survives a reload. */
  draft(path: string, text: string | null) {
    const { [path]: _, ...drafts } = this.state.drafts;
    this.set({ drafts: text === null ? drafts : { ...drafts, [path]: text } });
    const note = { draft: path, text };
    this.journal.note(note);
    void this.write(note);
  }

  undo() {
    const step = this.past.pop();
    if (!step) return;
    this.edited = { paths: "", at: 0 };
    // Entries are found by their ids: a colleague's newer document keeps what it has.
    this.apply(
      step.map(({ path, to, before, after }) => ({ path, to, value: listUndone(at(this.state.document, to), before, after) })),
    );
  }

  /** Ask for the plan of the document as it is now; an older answer is dropped. */
  private async ask() {
    const { document } = this.state;
    try {
      const plan = await planOf(document, `plan ${this.id}`);
      if (this.state.document !== document) return;
      this.set({ plan, planned: document, faults: plan.faults });
      planShown();
      clearTimeout(this.keeping);
      this.keeping = setTimeout(() => void this.device.keepPlan(this.id, document, plan).catch(() => undefined), KEEP_PLAN_MS);
    } catch (problem) {
      if (problem instanceof Stale || this.state.document !== document) return;
      if (problem instanceof Problem && problem.status === 422) this.set({ faults: problem.faults });
    }
  }

  /** Do what a verdict offers, as the plan of the document says that stands now: what was typed since the verdict came counts. */
  async fix(shown: Verdict): Promise<void> {
    for (let n = 0; n < TRIES && this.state.planned !== this.state.document; n += 1) await this.ask();
    const isSame = (v: Verdict) => v.code === shown.code && v.subject === shown.subject && v.at === shown.at;
    const { plan } = this.state;
    const said = [...(plan?.stages ?? []), ...(plan?.supplies ?? []).map((s) => s.stage)].flatMap((s) => s.verdicts);
    // What the log says is no part of the plan: it is as new as the screen.
    const ofTheLog = shown.code.startsWith("running.");
    const now = !ofTheLog && this.state.planned === this.state.document ? said.find(isSame) : shown;
    if (now) this.editAll(now.fix);
  }

  /** Make the plan anew now that the engine is up, and a few times over: code that has run before runs faster at the first key. */
  private async afresh() {
    for (let n = 0; n < WARM_PLANS; n += 1) await this.ask();
  }

  /** End a conflict with the document made from both. */
  async settle(merged: Document) {
    await this.device.settle(this.id, merged);
    this.sender.wake();
  }
}
