// Reaching into a job document by path ("supplies[0].parts[3].length_m") without changing what is there.
import { produce } from "immer";

export type Json = string | number | boolean | null | Json[] | { [key: string]: Json };
export type Document = { [key: string]: Json };

/** A step of a path: a key, a place in a list, or the entry of a list that has this id. */
type Way = string | number | { id: string };

/** The steps of a path: keys, list places, and entries by id ("supplies[#supply-1].parts[3]"). */
export function steps(path: string): Way[] {
  return [...path.matchAll(/\[#([^\]]+)\]|\[(\d+)\]|([^.[\]]+)/g)].map((m) =>
    m[1] !== undefined ? { id: m[1] } : m[2] === undefined ? (m[3] ?? "") : Number(m[2]),
  );
}

const told = (step: Way) => (typeof step === "object" ? `#${step.id}` : String(step));
const idOf = (entry: Json | undefined) =>
  entry !== null && typeof entry === "object" && !Array.isArray(entry) ? entry["id"] : undefined;
const placeOf = (list: Json[], step: Way): number =>
  typeof step === "object" ? list.findIndex((e) => idOf(e) === step.id) : typeof step === "number" ? step : -1;

/** What stands at a path, undefined where nothing does. */
export function at(document: Json | undefined, path: string): Json | undefined {
  let here: Json | undefined = document;
  for (const step of steps(path)) {
    if (Array.isArray(here)) here = here[placeOf(here, step)];
    else if (here !== null && typeof here === "object" && typeof step === "string") here = here[step];
    else return undefined;
  }
  return here;
}

/** A path with the entries it goes through named by their ids, so that it means the same whatever comes before them. */
export function byId(document: Document, path: string): string {
  let here: Json | undefined = document;
  let made = "";
  for (const step of steps(path)) {
    if (Array.isArray(here)) {
      here = here[placeOf(here, step)];
      const id = idOf(here);
      made += typeof id === "string" && !id.includes("]") ? `[#${id}]` : `[${told(step)}]`;
    } else {
      here = here !== null && typeof here === "object" && typeof step === "string" ? here[step] : undefined;
      made += typeof step === "string" ? (made ? `.${step}` : step) : `[${told(step)}]`;
    }
  }
  return made;
}

/**
 * The document with a value at a path, undefined for none: what does not lie on the way is the same object as before.
 * Where the path goes through an entry that is not there any more, nothing changes.
 */
export function put(document: Document, path: string, value: Json | undefined): Document {
  const way = steps(path);
  const last = way.pop();
  if (last === undefined) return document;
  return produce(document, (draft) => {
    // What is not there yet, or is of another sort, is made: a list where the next step is a place in one.
    let here = draft as Record<string | number, Json>;
    const key = (step: Way) => (typeof step === "object" ? placeOf(here as Json as Json[], step) : step);
    for (const [n, step] of way.entries()) {
      const k = key(step);
      if (k === -1) return;
      const isList = typeof (way[n + 1] ?? last) !== "string";
      const found = here[k];
      if (found === null || typeof found !== "object" || Array.isArray(found) !== isList) {
        if (typeof (way[n + 1] ?? last) === "object") return;
        here[k] = isList ? [] : {};
      }
      here = here[k] as Record<string | number, Json>;
    }
    const k = key(last);
    if (k === -1) return;
    if (value !== undefined) here[k] = value;
    else if (!Array.isArray(here)) delete here[k];
  });
}

/** A list brought back to what it was: what was added goes, what was removed comes back; what others did since stays. */
export function listUndone(now: Json | undefined, before: Json | undefined, after: Json | undefined): Json | undefined {
  if (!Array.isArray(now) || !Array.isArray(before) || !Array.isArray(after)) return before;
  const ids = (list: Json[]) => new Set(list.map(idOf));
  if (ids(before).has(undefined) || ids(after).has(undefined)) return before;
  const [was, is] = [ids(before), ids(after)];
  const left = now.filter((e) => was.has(idOf(e)) || !is.has(idOf(e)));
  for (const [n, entry] of before.entries())
    if (!is.has(idOf(entry)) && !ids(left).has(idOf(entry))) left.splice(Math.min(n, left.length), 0, entry);
  return left;
}

/** The list at a path; empty where there is none. */
export function listAt(document: Document, path: string): Document[] {
  const found = at(document, path);
  return Array.isArray(found) ? found.filter((e): e is Document => e !== null && typeof e === "object" && !Array.isArray(e)) : [];
}

/** An id that no entry of the list has yet. */
export function freshId(stem: string, taken: string[]): string {
  for (let n = 1; ; n += 1) if (!taken.includes(`${stem}-${n}`)) return `${stem}-${n}`;
}

/** Entries added to a list, each with its own id or a fresh one that no other has. */
export function withIds(stem: string, all: Document[], added: Document[]): Document[] {
  const ids = all.map((e) => textAt(e, "id"));
  return [
    ...all,
    ...added.map((entry) => {
      const id = textAt(entry, "id") || freshId(stem, ids);
      ids.push(id);
      return { ...entry, id };
    }),
  ];
}

/** The text at a path; empty where there is none. */
export function textAt(document: Document, path: string): string {
  const found = at(document, path);
  return typeof found === "string" ? found : "";
}
