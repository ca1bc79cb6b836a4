// Reaching into a job document by path ("supplies[0].parts[3].length_m") without changing what is there.
import { produce } from "immer";

export type Json = string | number | boolean | null | Json[] | { [key: string]: Json };
export type Document = { [key: string]: Json };

/** The steps of a path: keys and list places. */
export function steps(path: string): (string | number)[] {
  return [...path.matchAll(/([^.[\]]+)|\[(\d+)\]/g)].map((m) => (m[2] === undefined ? (m[1] ?? "") : Number(m[2])));
}

/** What stands at a path, undefined where nothing does. */
export function at(document: Json | undefined, path: string): Json | undefined {
  let here: Json | undefined = document;
  for (const step of steps(path)) {
    if (Array.isArray(here) && typeof step === "number") here = here[step];
    else if (here !== null && typeof here === "object" && !Array.isArray(here) && typeof step === "string") here = here[step];
    else return undefined;
  }
  return here;
}

/** The document with a value at a path: what does not lie on the way is the same object as before. */
export function put(document: Document, path: string, value: Json): Document {
  const way = steps(path);
  const last = way.pop();
  if (last === undefined) return document;
  return produce(document, (draft) => {
    // What is not there yet, or is of another sort, is made: a list where the next step is a place in one.
    let here = draft as Record<string | number, Json>;
    for (const [n, step] of way.entries()) {
      const isList = typeof (way[n + 1] ?? last) === "number";
      const found = here[step];
      if (found === null || typeof found !== "object" || Array.isArray(found) !== isList) here[step] = isList ? [] : {};
      here = here[step] as Record<string | number, Json>;
    }
    here[last] = value;
  });
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
