// Asking the core: in the browser once the engine is up, the server until then and wherever it is not.
import {
  type Assumed,
  type Due,
  type Entry,
  type VisitField,
  type Faults,
  type Kit,
  type MachineState,
  type OpenThing,
  type Plan,
  Problem,
  type Procedure,
  type RunNow,
  type Stage,
  type Started,
  type Stopping,
  answer,
  api,
} from "../api/client";
import type { Document, Json } from "../job/document";
import { BOOT_MS, Engine, EngineFailure } from "./engine";
import { isSlow, lineFree } from "./line";
import { type Changes, Told } from "./told";
import { nowMs } from "../outbox/time";

const DIGEST_WAIT_MS = 20_000;

let made: Engine | null = null;

/** Over a slow line all of it takes minutes to come. */
const SLOW_BOOT_MS = 300_000;

/** The engine of this page, started at the first call, or once the line is free for it. */
export function engine(): Engine {
  made ??= new Engine(
    () => new Worker(new URL("engine.worker.ts", import.meta.url), { type: "module", name: "engine" }),
    lineFree(),
    isSlow() ? SLOW_BOOT_MS : BOOT_MS,
  );
  return made;
}

const REFUSED = { status: 422, title: "Some values cannot be used", detail: "" };

function understood<T>(text: string): T {
  const said = JSON.parse(text) as { answer: T } | { faults: { path: string; message: string }[] };
  if ("faults" in said) throw new Problem({ ...REFUSED, faults: said.faults });
  return said.answer;
}

async function ask<T>(question: Record<string, unknown>, key: string | null, ofServer: () => Promise<T>): Promise<T> {
  return askIn(
    () => JSON.stringify(question),
    (text) => understood<T>(text),
    key,
    ofServer,
  );
}

async function askIn<T>(
  question: () => string,
  read: (text: string) => T,
  key: string | null,
  ofServer: () => Promise<T>,
): Promise<T> {
  const here = engine();
  if (here.state !== "up") {
    try {
      return await ofServer();
    } catch (problem) {
      const silent = problem instanceof Problem && problem.status !== 422;
      if (!silent || !(await here.whenKnown())) throw problem;
    }
  }
  try {
    return await here.ask(question, read, key);
  } catch (problem) {
    if (problem instanceof EngineFailure) return ofServer();
    throw problem;
  }
}

const told = new Told();

/** The plan of a document; with a key, an answer still waited for under it is dropped. */
export function planOf(document: Document, key: string | null = null): Promise<Plan> {
  return askIn(
    () => JSON.stringify({ ask: "changes", document, kept: told.turn }),
    (text) => told.grown(understood<Changes>(text)),
    key,
    () => answer(api.POST("/api/plan", { body: { document } })),
  );
}

/** The job a start makes of the answers, with its headline figures. */
export function startOf(key: string, answers: Document, units: "metric" | "us"): Promise<Started> {
  return ask<Started>({ ask: "start", key, answers, units }, "start", () =>
    answer(api.POST("/api/start", { body: { key, answers, units } })),
  );
}

/** What counts in a plan and nobody typed, what moves the most first. It plans many times over: the server does that, so that the next key need not wait for it here. */
export async function assumedOf(document: Document): Promise<Assumed[]> {
  const ofServer = () => answer(api.POST("/api/assumed", { body: { document } }));
  try {
    return await ofServer();
  } catch (problem) {
    if (!(problem instanceof Problem) || problem.status === 422) throw problem;
    return ask<Assumed[]>({ ask: "assumed", document }, "assumed", ofServer);
  }
}

/** A document in today's format; of a newer one it is refused. */
export async function todaysOf(document: Document): Promise<Document> {
  const found = await ask<{ document: Document }>(
    { ask: "document", document },
    null,
    () => answer(api.POST("/api/document", { body: { document } })) as Promise<{ document: Document }>,
  );
  return found.document;
}

/** What changes in a document when something on the drawing of its site is shifted, in metres. */
export function movedOf(document: Document, id: string, by: [number, number]): Promise<{ path: string; value: Json }[]> {
  return ask(
    { ask: "moved", document, id, by },
    null,
    () => answer(api.POST("/api/moved", { body: { document, id, by } })) as Promise<{ path: string; value: Json }[]>,
  );
}

/** The procedure that a run of a machine begins with, by its key or the one to commission it; with those of its signed runs, of just what changed since them. */
export function beginOf(document: Document, unit: string, signed: Procedure[] | null = null, key = ""): Promise<Procedure> {
  return ask({ ask: "begin", document, unit, signed, key }, null, () =>
    answer(api.POST("/api/begin", { body: { document, unit, key, signed: signed as unknown as Document[] | null } })),
  );
}

export interface RunHeld {
  id: string;
  unit: string;
  procedure: Procedure;
  signed: boolean;
  gates: string[];
}

/** Where the commissioning of each machine stands; runs oldest first. */
export function commissioningOf(document: Document, runs: RunHeld[], key: string | null = null): Promise<MachineState[]> {
  return ask({ ask: "commissioning", document, runs }, key, () =>
    answer(api.POST("/api/commissioning", { body: { document, runs: runs as unknown as never[] } })),
  );
}

/** What stands open before the job is signed off, what refuses that first; runs oldest first. */
export function openOf(
  document: Document,
  runs: RunHeld[],
  entries: Record<string, unknown>[],
  signed_s: Record<string, number>,
  key: string | null = null,
): Promise<OpenThing[]> {
  const asked = { document, entries, signed_s, now_s: nowMs() / 1000 };
  return ask({ ask: "open", ...asked, runs }, key, () =>
    answer(api.POST("/api/open", { body: { ...asked, runs: runs as unknown as never[] } })),
  );
}

export interface RunFacts {
  procedure: Procedure;
  events: Record<string, unknown>[];
  newest: Document;
  /** Of the log what its safety tests go by; by machine the moment of its first sign-off (s since 1970), and now. */
  entries: Record<string, unknown>[];
  signed_s: Record<string, number>;
  now_s: number | null;
}

/** A commissioning run by its events as it is now. */
export function runOf(run: RunFacts, key: string | null = null): Promise<RunNow> {
  return ask({ ask: "run", ...run }, key, () => answer(api.POST("/api/run", { body: { ...run } })));
}

/** What a log comes to against the plan. */
export function runningOf(document: Document, entries: Entry[], key: string | null = null): Promise<Stage> {
  return ask({ ask: "running", document, entries }, key, () =>
    answer(api.POST("/api/running", { body: { document, entries: entries as unknown as Record<string, unknown>[] } })),
  );
}

/** What is due on a job: its schedule and its safety tests. */
export function dueOf(
  document: Document,
  entries: Entry[],
  signed_s: Record<string, number>,
  key: string | null = null,
): Promise<Due> {
  const asked = { document, entries: entries as unknown as Record<string, unknown>[], signed_s, now_s: nowMs() / 1000 };
  return ask({ ask: "due", ...asked }, key, () => answer(api.POST("/api/due", { body: asked })));
}

/** What a visit reads now, with what was read last. */
export function visitOf(document: Document, entries: Entry[], key: string | null = null): Promise<VisitField[]> {
  const asked = { document, entries: entries as unknown as Record<string, unknown>[], now_s: nowMs() / 1000 };
  return ask({ ask: "visit", ...asked }, key, () => answer(api.POST("/api/visit", { body: asked })));
}

export interface AskedOfFault {
  unit: string;
  /** What a run is sealed with, and its events; without, only the plan and the log speak. */
  procedure: Procedure | null;
  events: Record<string, unknown>[];
  entries: Entry[];
  /** The step at which it was asked. */
  step: string;
  /** The symptom that is looked into, "" none yet. */
  symptom: string;
  /** When it was noticed, s since 1970; null where no symptom is looked into. */
  noticed_s: number | null;
  now_s: number;
}

const plainEntries = (entries: Entry[]) => entries as unknown as Record<string, unknown>[];

/** The symptoms of a machine, and the causes of one in the order in which to look. */
export function faultsOf(document: Document, asked: AskedOfFault): Promise<Faults> {
  return ask({ ask: "faults", document, ...asked }, "faults", () =>
    answer(
      api.POST("/api/faults", {
        body: {
          document,
          ...asked,
          procedure: asked.procedure as unknown as Record<string, unknown> | null,
          entries: plainEntries(asked.entries),
        },
      }),
    ),
  );
}

/** What is taken along to a job. */
export function kitOf(document: Document, entries: Entry[], missed: string[]): Promise<Kit> {
  return ask({ ask: "kit", document, entries, missed }, "kit", () =>
    answer(api.POST("/api/kit", { body: { document, entries: plainEntries(entries), missed } })),
  );
}

/** In which order a whole job is stopped, and what fails first. */
export function stopOrderOf(document: Document, entries: Entry[], nowS: number): Promise<Stopping> {
  return ask({ ask: "stop_order", document, entries, now_s: nowS }, "stop order", () =>
    answer(api.POST("/api/stop-order", { body: { document, entries: plainEntries(entries), now_s: nowS } })),
  );
}

export interface Pasted {
  columns: string[];
  entries: Document[];
  faults: { row: number; text: string; message: string }[];
  /** The rows that cannot be used, to be mended. */
  rest: string;
}

/** The entries of a pasted table of loads or of hours, and the rows that cannot be used. */
export function pastedOf(list: "loads" | "hours", text: string): Promise<Pasted> {
  return ask<Pasted>(
    { ask: "pasted", list, text },
    `pasted ${list}`,
    () => answer(api.POST("/api/pasted", { body: { list, text } })) as Promise<Pasted>,
  );
}

/** A data sheet read and checked for sense. */
export function sheetOf(sheet: Document): Promise<Document> {
  return ask<Document>(
    { ask: "sheet", sheet },
    null,
    () => answer(api.POST("/api/sheet", { body: { sheet } })) as Promise<Document>,
  );
}

/** A digest of the plan this device makes of a document, null where it makes none; the server holds it against its own. */
export async function planDigest(document: Document): Promise<string | null> {
  const here = engine();
  if (!globalThis.crypto?.subtle) return null;
  const patience = new Promise<boolean>((done) => setTimeout(done, DIGEST_WAIT_MS, false));
  if (!(await Promise.race([here.whenKnown(), patience]))) return null;
  try {
    const text = await here.ask(() => JSON.stringify({ ask: "plan", document }), String);
    const digest = await crypto.subtle.digest("SHA-256", new TextEncoder().encode(text));
    return [...new Uint8Array(digest)].map((b) => b.toString(16).padStart(2, "0")).join("");
  } catch {
    return null;
  }
}

/** A whole job as one file, of what this device keeps of it; only here, for the server has its own. */
export async function wholeJobOf(whole: { document: Document; runs: Json[]; entries: Json[] }): Promise<Uint8Array<ArrayBuffer>> {
  const { base64 } = await engine().ask(
    () => JSON.stringify({ ask: "whole_job", ...whole }),
    (text) => understood<{ base64: string }>(text),
  );
  return Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));
}

/** One thing that was found of a file. */
export interface FoundOfFile {
  /** Null for what a file only says of itself, until the server has confirmed it. */
  good: boolean | null;
  file: string;
  says: string;
  claim: { digest: string; name: string; at: string } | null;
}

/** Whether reports and whole jobs are unchanged and belong together; the files stay on this device. */
export function verifyFiles(files: Record<string, Uint8Array>): Promise<FoundOfFile[]> {
  return engine().ask(
    () => '{"ask": "verify"}',
    (text) => understood<FoundOfFile[]>(text),
    null,
    files,
  );
}

export interface Brought {
  /** The documents of the job in their order, each with its id as a revision; the last is the job as it is. */
  documents: { id: string; document: Document }[];
  runs: { id: string; unit: string; procedure: Procedure; events: Record<string, unknown>[] }[];
  entries: Record<string, unknown>[];
  pictures: { id: string; kind: string; file: string }[];
}

/** What a file makes of a new job, looked at wholly on this device: the same that the server will make of it. */
export function broughtBy(job: string, by: string, name: string, content: Uint8Array): Promise<Brought> {
  return engine().ask(
    () => JSON.stringify({ ask: "bring_in", job, by }),
    (text) => understood<Brought>(text),
    null,
    { [name]: content },
  );
}
