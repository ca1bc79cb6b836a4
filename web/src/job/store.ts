// One open job: its document, the answers to it, and where it stands with the server. No React in here.
import { type Fault, type Job, type Plan, Problem, answer, api } from "../api/client";
import { type Document, type Json, put } from "./document";
import { type Kept, keep, recall } from "./kept";

export type SaveState = "saved" | "saving" | "waiting" | "conflict" | "refused";

export interface Conflict {
  document: Document;
  revision: number;
  author: string;
}

export interface JobState {
  document: Document;
  revision: number;
  plan: Plan | null;
  planned: Document | null;
  drafts: Record<string, string>;
  faults: Fault[];
  save: SaveState;
  trouble: string;
  conflict: Conflict | null;
  canUndo: boolean;
}

const SAVE_AFTER_MS = 700;
const RETRY_MS = 4000;
const MOST_UNDO = 100;
const ONE_EDIT_MS = 1500;

/** Keeps a job: edits at once, asks for the plan, saves a moment later, loses nothing. */
export class JobStore {
  private state: JobState;
  private readonly listeners = new Set<() => void>();
  private readonly past: Document[] = [];
  private timer: ReturnType<typeof setTimeout> | undefined;
  private asking: AbortController | undefined;
  private sending = false;
  private edited = { paths: "", at: 0 };
  readonly id: string;

  constructor(job: Job) {
    this.id = job.id;
    const kept = recall(job.id);
    const mine = kept?.dirty ? kept : null;
    this.state = {
      document: mine?.document ?? (job.document as Document),
      revision: mine?.basedOn ?? job.revision,
      plan: null,
      planned: null,
      drafts: kept?.drafts ?? {},
      faults: [],
      save: mine ? "waiting" : "saved",
      trouble: "",
      conflict: null,
      canUndo: false,
    };
    void this.ask();
    if (mine) this.later(0);
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

  private remember() {
    const kept: Kept = { document: this.state.document, basedOn: this.state.revision, dirty: this.state.save !== "saved", drafts: this.state.drafts };
    if (!keep(this.id, kept)) this.set({ trouble: "This browser's storage is full: save before you leave the page." });
  }

  /** Put a value at a path; what was typed there before is settled by it. */
  edit(path: string, value: Json) {
    this.replace(put(this.state.document, path, value), [path]);
  }

  /** Put several values at once, as one step of undo. */
  editAll(changes: { path: string; value: Json }[]) {
    this.replace(
      changes.reduce((document, c) => put(document, c.path, c.value), this.state.document),
      changes.map((c) => c.path),
    );
  }

  private replace(document: Document, settled: string[]) {
    // Keys typed in one go in one field are one step of undo.
    const edited = { paths: settled.join(), at: Date.now() };
    if (edited.paths !== this.edited.paths || edited.at - this.edited.at > ONE_EDIT_MS) this.past.push(this.state.document);
    this.edited = edited;
    if (this.past.length > MOST_UNDO) this.past.shift();
    const drafts = Object.fromEntries(Object.entries(this.state.drafts).filter(([path]) => !settled.includes(path)));
    this.set({ document, drafts, save: this.state.save === "conflict" ? "conflict" : "waiting", faults: [], canUndo: true });
    this.remember();
    void this.ask();
    this.later(SAVE_AFTER_MS);
  }

  /** Keep a text that is no value yet; it survives a reload. */
  draft(path: string, text: string | null) {
    const drafts = { ...this.state.drafts };
    if (text === null) delete drafts[path];
    else drafts[path] = text;
    this.set({ drafts });
    this.remember();
  }

  undo() {
    const document = this.past.pop();
    if (!document) return;
    this.edited = { paths: "", at: 0 };
    this.set({ document, drafts: {}, faults: [], save: "waiting", canUndo: this.past.length > 0 });
    this.remember();
    void this.ask();
    this.later(SAVE_AFTER_MS);
  }

  private later(ms: number) {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.send(), ms);
  }

  /** Ask for the plan of the document as it is now; an older answer is dropped. */
  private async ask() {
    this.asking?.abort();
    const asking = new AbortController();
    this.asking = asking;
    const document = this.state.document;
    try {
      const plan = await answer(api.POST("/api/plan", { body: { document }, signal: asking.signal }));
      if (this.asking === asking) this.set({ plan, planned: document, faults: [] });
    } catch (problem) {
      if (this.asking === asking && problem instanceof Problem && problem.status === 422) this.set({ faults: problem.faults });
    }
  }

  /** Send what is not saved yet; tried again until there is an answer. */
  async send() {
    if (this.sending || this.state.save === "saved" || this.state.conflict) return;
    this.sending = true;
    clearTimeout(this.timer);
    const document = this.state.document;
    this.set({ save: "saving" });
    try {
      const job = await answer(api.PUT("/api/jobs/{job_id}", { params: { path: { job_id: this.id } }, body: { document, based_on: this.state.revision } }));
      const unchanged = this.state.document === document;
      this.set({ revision: job.revision, save: unchanged ? "saved" : "waiting", trouble: "" });
      if (!unchanged) this.later(SAVE_AFTER_MS);
    } catch (problem) {
      this.failed(problem);
    } finally {
      this.sending = false;
      this.remember();
      if (!this.state.plan) void this.ask();
    }
  }

  private failed(problem: unknown) {
    if (!(problem instanceof Problem)) throw problem;
    if (problem.status === 409 && problem.theirs)
      this.set({ save: "conflict", conflict: { document: problem.theirs.document as Document, revision: problem.theirs.revision, author: problem.theirs.author } });
    else if (problem.status === 422) this.set({ save: "refused", faults: problem.faults, trouble: "Some values cannot be saved; they are kept here." });
    else {
      this.set({ save: "waiting", trouble: `${problem.message}. ${problem.detail}` });
      this.later(RETRY_MS);
    }
  }

  /** End a conflict: keep this version over theirs, or take theirs. */
  settle(which: "mine" | "theirs") {
    const { conflict } = this.state;
    if (!conflict) return;
    if (which === "theirs") {
      this.past.push(this.state.document);
      this.set({ document: conflict.document, drafts: {}, save: "saved", canUndo: true });
    } else this.set({ save: "waiting" });
    this.set({ revision: conflict.revision, conflict: null });
    this.remember();
    void this.ask();
    this.later(0);
  }
}
