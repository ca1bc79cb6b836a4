// The parts of the fuel path as an indented list: a run stays at its margin, each branch goes one step in.
import { type Document, textAt } from "../../job/document";

export interface Row {
  part: Document;
  /** Its place in the document. */
  n: number;
  /** How many branchings lie before it. */
  depth: number;
}

/** Rows in the order of the path, branch after branch; what hangs on nothing or on itself comes last. */
export function rows(parts: Document[]): Row[] {
  const after = new Map<string, number[]>();
  parts.forEach((p, n) => after.set(textAt(p, "after"), [...(after.get(textAt(p, "after")) ?? []), n]));
  const made: Row[] = [];
  const seen = new Set<number>();
  const go = (id: string, depth: number) => {
    const next = after.get(id) ?? [];
    for (const n of next) {
      const part = parts[n];
      if (!part || seen.has(n)) continue;
      seen.add(n);
      const inward = next.length > 1 ? depth + 1 : depth;
      made.push({ part, n, depth: inward });
      const own = textAt(part, "id");
      if (own !== "") go(own, inward);
    }
  };
  go("", 0);
  parts.forEach((part, n) => {
    if (!seen.has(n)) made.push({ part, n, depth: 0 });
  });
  return made;
}

/** The parts with one taken out: what hung on it hangs on what came before it. */
export function without(parts: Document[], gone: Document): Document[] {
  return parts
    .filter((p) => p !== gone)
    .map((p) => (textAt(p, "after") === textAt(gone, "id") ? { ...p, after: textAt(gone, "after") } : p));
}

/** The parts with a new one after another: into the run it goes between, as a branch it goes beside. */
export function withAfter(parts: Document[], before: string, made: Document, branch: boolean): Document[] {
  const id = textAt(made, "id");
  const moved = branch ? parts : parts.map((p) => (textAt(p, "after") === before ? { ...p, after: id } : p));
  const at = parts.findIndex((p) => textAt(p, "id") === before);
  return [...moved.slice(0, at + 1), { ...made, after: before }, ...moved.slice(at + 1)];
}
