// Reaching into a job document by path ("supplies[0].parts[3].length_m") without changing what is there.
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

function withStep(here: Json | undefined, way: (string | number)[], value: Json): Json {
  const [step, ...rest] = way;
  if (step === undefined) return value;
  if (typeof step === "number") {
    const list = Array.isArray(here) ? [...here] : [];
    list[step] = withStep(list[step], rest, value);
    return list;
  }
  const object = here !== null && typeof here === "object" && !Array.isArray(here) ? here : {};
  return { ...object, [step]: withStep(object[step], rest, value) };
}

/** A copy of the document with a value at a path. */
export function put(document: Document, path: string, value: Json): Document {
  const made = withStep(document, steps(path), value);
  return made !== null && typeof made === "object" && !Array.isArray(made) ? made : document;
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
