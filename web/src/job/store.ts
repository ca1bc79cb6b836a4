// One open job: its document, the answers to it, and where it stands with the server. No React in here.
import { liveQuery } from "dexie";
import { type Fault, type Plan, Problem } from "../api/client";
import { planOf } from "../engine/ask";
import { Stale } from "../engine/engine";
import type { KeptJob, Theirs } from "../outbox/db";
import { type Device, type Edit, isFull } from "../outbox/device";
import { Journal, type Note, takeNotes } from "../outbox/journal";
import type { Sender } from "../outbox/sender";
import { type Document, type Json, at, put } from "./document";

export type SaveState = "opening" | "saved" | "saving" | "waiting" | "conflict" | "refused" | "full";

export interface JobState {
  document: Document;
  /** The newest state the server is known to have. */
  base: Document | null;
  plan: Plan | null;
  planned: Document | null;
  drafts: Record<string, string>;
  faults: Fault[];
  save: SaveState;
  trouble: string;
  conflict: Theirs | null;
  canUndo: boolean;
}

interface Row {
  stuck: "conflict" | "refused" | null;
  faults: Fault[];
  title: string;
}

const MOST_UNDO = 100;
const ONE_EDIT_MS = 1500;
const FULL = "This device has no room left: what you type now is not kept. Save the job to a file before you leave the page.";

/** Keeps a job: edits at once, asks for the plan, keeps it on this device, from where it is sent; loses nothing. */
export class JobStore {
  private state: JobState;
  private readonly listeners = new Set<() => void>();
  private readonly past: Edit[][] = [];
  private edited = { paths: "", at: 0 };
  private writing = 0;
  private rows: Row[] | null = null;
  private full = false;
  private readonly device: Device;
  private readonly sender: Sender;
  private readonly journal: Journal;
  private readonly stops: (() => void)[] = [];
  readonly id: string;

  constructor(kept: KeptJob, device: Device, sender: Sender) {
    this.id = kept.id;
    this.device = device;
    this.sender = sender;
    this.journal = new Journal(device.person, kept.id);
    this.state = { document: kept.document, base: kept.base?.document ?? null, plan: null, planned: null, drafts: kept.drafts, faults: [], save: "opening", trouble: "", conflict: kept.conflict, canUndo: false };
    void this.ask();
  }

  /** Follow what this device keeps of the job, other tabs included, until the returned function is called. */
  open(): () => void {
    for (const note of takeNotes(this.device.person, this.id)) void this.write(note);
    const job = liveQuery(() => this.device.db.jobs.get(this.id)).subscribe((kept) => kept && this.seen(kept));
    const rows = liveQuery(() => this.waiting()).subscribe((found) => {
      this.rows = found;
      if (found.length > 0) this.sender.wake();
      this.place();
    });
    this.stops.push(() => job.unsubscribe(), () => rows.unsubscribe(), this.sender.subscribe(() => this.place()));
    return () => this.stops.splice(0).forEach((stop) => stop());
  }

  private async waiting(): Promise<Row[]> {
    const found = await this.device.db.outbox.where("job").equals(this.id).toArray();
    return found
      .filter((w) => w.record.kind === "revision" || w.record.kind === "job")
      .map((w) => ({ stuck: w.stuck, faults: w.problem?.faults ?? [], title: w.problem?.title ?? "" }));
  }

  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };
  readonly get = () => this.state;

  private set(change: Partial<JobState>) {
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
    this.set({ base, conflict: kept.conflict, drafts: kept.drafts, ...(changed ? { document: kept.document } : {}) });
    this.place();
    if (changed) void this.ask();
  }

  /** Say where the job stands with the server. */
  private place() {
    const { silent, signedOut, trouble } = this.sender.get();
    if (this.rows === null) return;
    const refused = this.rows.find((r) => r.stuck === "refused");
    if (this.full) this.set({ save: "full", trouble: FULL });
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
    const before = edits.map(({ path }) => ({ path, value: at(this.state.document, path) ?? null }));
    // Keys typed in one go in one field are one step of undo.
    const edited = { paths: edits.map((e) => e.path).join(), at: Date.now() };
    if (edited.paths !== this.edited.paths || edited.at - this.edited.at > ONE_EDIT_MS) this.past.push(before);
    this.edited = edited;
    if (this.past.length > MOST_UNDO) this.past.shift();
    this.apply(edits);
  }

  private apply(edits: Edit[]) {
    const document = edits.reduce((d, e) => put(d, e.path, e.value), this.state.document);
    const settled = new Set(edits.map((e) => e.path));
    const drafts = Object.fromEntries(Object.entries(this.state.drafts).filter(([path]) => !settled.has(path)));
    this.set({ document, drafts, faults: [], canUndo: this.past.length > 0 });
    void this.ask();
    void this.write({ edits });
  }

  private async write(note: Note) {
    this.writing += 1;
    this.journal.note(note);
    this.place();
    try {
      if ("edits" in note) await this.device.edit(this.id, note.edits);
      else await this.device.draft(this.id, note.draft, note.text);
      this.journal.done(note);
      this.full = false;
      this.rows = await this.waiting();
    } catch (problem) {
      if (!isFull(problem)) throw problem;
      this.full = true;
    } finally {
      this.writing -= 1;
      this.place();
    }
  }

  /** Keep a text that is no value yet; it survives a reload. */
  draft(path: string, text: string | null) {
    const { [path]: _, ...drafts } = this.state.drafts;
    this.set({ drafts: text === null ? drafts : { ...drafts, [path]: text } });
    void this.write({ draft: path, text });
  }

  undo() {
    const before = this.past.pop();
    if (!before) return;
    this.edited = { paths: "", at: 0 };
    this.apply(before);
  }

  /** Ask for the plan of the document as it is now; an older answer is dropped. */
  private async ask() {
    const { document } = this.state;
    try {
      const plan = await planOf(document, `plan ${this.id}`);
      if (this.state.document === document) this.set({ plan, planned: document, faults: [] });
    } catch (problem) {
      if (problem instanceof Stale || this.state.document !== document) return;
      if (problem instanceof Problem && problem.status === 422) this.set({ faults: problem.faults });
    }
  }

  /** End a conflict with the document made from both. */
  async settle(merged: Document) {
    await this.device.settle(this.id, merged);
    this.sender.wake();
  }
}
