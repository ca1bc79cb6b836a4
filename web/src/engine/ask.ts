// Asking the core: in the browser once the engine is up, the server until then and wherever it is not.
import { t } from "@lingui/core/macro";
import { type Answers, type Asked, type Asks, type OfTheDevice, Problem, type Plan, askServer } from "../api/client";
import type { Document } from "../job/document";
import { BOOT_MS, Engine, EngineFailure } from "./engine";
import { isSlow, lineFree } from "./line";
import { Told } from "./told";

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

const refusal = () => ({ status: 422, title: t`Some values cannot be used`, detail: "" });

function understood<T>(text: string): T {
  const said = JSON.parse(text) as { answer: T } | { faults: { path: string; message: string }[] };
  if ("faults" in said) throw new Problem({ ...refusal(), faults: said.faults });
  return said.answer;
}

/** A question as the engine reads it: it names itself first, so that its size is judged before it is read. */
const written = (question: string, asks: object) => JSON.stringify({ ask: question, ...asks });

/** Ask the core a question; with a key, an answer still waited for under it is dropped. */
export function ask<K extends Asked>(question: K, asks: Asks<K>, key: string | null = null): Promise<Answers<K>> {
  return askIn(
    () => written(question, asks),
    (text) => understood<Answers<K>>(text),
    key,
    () => askServer(question, asks),
  );
}

/** Ask this device what no server is asked: it has the files, and what it was told last. */
export function askHere<K extends OfTheDevice>(
  question: K,
  asks: Asks<K>,
  files?: Record<string, Uint8Array>,
): Promise<Answers<K>> {
  return engine().ask(
    () => written(question, asks),
    (text) => understood<Answers<K>>(text),
    null,
    files,
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

/** The plan of a document, of which only what changed comes across; with a key, an answer still waited for under it is dropped. */
export function planOf(document: Document, key: string | null = null): Promise<Plan> {
  return askIn(
    () => written("changes", { document, kept: told.turn }),
    (text) => told.grown(understood<Answers<"changes">>(text)),
    key,
    () => askServer("plan", { document }),
  );
}

/** The answer to a question that plans many times over: the server does that, so that the next key need not wait for it here. */
async function askServerFirst<K extends "assumed" | "bring">(question: K, asks: Asks<K>): Promise<Answers<K>> {
  try {
    return await askServer(question, asks);
  } catch (problem) {
    if (!(problem instanceof Problem) || problem.status === 422) throw problem;
    return ask(question, asks, question);
  }
}

/** What counts in a plan and nobody typed, what moves the most first. */
export const assumedOf = (document: Document): Promise<Answers<"assumed">> => askServerFirst("assumed", { document });

/** How many cylinders to bring for the night of a supply. */
export const bringOf = (document: Document, supply: string): Promise<Answers<"bring">> =>
  askServerFirst("bring", { document, supply });

/** A document in today's format; of a newer one it is refused. */
export async function todaysOf(document: Document): Promise<Document> {
  return (await ask("document", { document })).document as Document;
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
export async function wholeJobOf(whole: Asks<"whole_job">): Promise<Uint8Array<ArrayBuffer>> {
  const { base64 } = await engine().ask(
    () => written("whole_job", whole),
    (text) => understood<Answers<"whole_job">>(text),
  );
  return Uint8Array.from(atob(base64), (c) => c.charCodeAt(0));
}
