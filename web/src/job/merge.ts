// Two versions of one job, field by field. No React in here.
import { type Document, type Json, at, put } from "./document";

export type Side = "mine" | "theirs";

/** A place at which two versions differ. */
export interface Difference {
  path: string;
  mine: Json | undefined;
  theirs: Json | undefined;
  /** Who changed it since the state both started from; "both" must be decided by the person. */
  by: Side | "both";
}

const isTree = (v: Json | undefined): v is Json[] | Document => typeof v === "object" && v !== null;
const idsOf = (list: Json[]) => list.map((e) => (isTree(e) && !Array.isArray(e) ? e["id"] : null));
const same = (a: Json | undefined, b: Json | undefined) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null);

/** The paths at which two documents differ. Lists with other entries, or in another order, differ as a whole. */
export function differences(one: Json | undefined, other: Json | undefined, path = ""): string[] {
  if (same(one, other)) return [];
  if (Array.isArray(one) && Array.isArray(other)) {
    if (JSON.stringify(idsOf(one)) !== JSON.stringify(idsOf(other))) return [path];
    return one.flatMap((entry, n) => differences(entry, other[n], `${path}[${n}]`));
  }
  if (!isTree(one) || !isTree(other) || Array.isArray(one) || Array.isArray(other)) return [path];
  return [...new Set([...Object.keys(one), ...Object.keys(other)])].flatMap((k) =>
    differences(one[k], other[k], path ? `${path}.${k}` : k),
  );
}

/** Where mine and theirs differ, and who of them changed it from the base. */
export function compare(base: Document | null, mine: Document, theirs: Document): Difference[] {
  return differences(mine, theirs).map((path) => {
    const [a, b, was] = [at(mine, path), at(theirs, path), base ? at(base, path) : undefined];
    const by = base && same(was, b) ? "mine" : base && same(was, a) ? "theirs" : "both";
    return { path, mine: a, theirs: b, by };
  });
}

/** Theirs with those places of mine that were picked. */
export function merged(mine: Document, theirs: Document, picks: Record<string, Side>): Document {
  return Object.entries(picks).reduce(
    (document, [path, side]) => (side === "mine" ? put(document, path, at(mine, path)) : document),
    theirs,
  );
}
