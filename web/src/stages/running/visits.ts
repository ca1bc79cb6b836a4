// The log as visits: what was read together is one row, the newest first, by day. No React in here.
import type { LoggedEntry } from "../../job/context";

export interface VisitRow {
  id: string;
  at: string;
  by: string;
  /** What counts of it, in its order. */
  entries: LoggedEntry[];
  /** What was corrected since, beside what took its place. */
  corrected: LoggedEntry[];
}

export interface Day {
  day: string;
  visits: VisitRow[];
}

const dayOf = (at: string) => {
  const local = new Date(at);
  return `${local.getFullYear()}-${String(local.getMonth() + 1).padStart(2, "0")}-${String(local.getDate()).padStart(2, "0")}`;
};

/** Entries that are lines of the log, by day and visit; a correction stands in the visit of what it corrects. */
export function byDay(all: LoggedEntry[], fits: (entry: LoggedEntry) => boolean = () => true): Day[] {
  const undone = new Set(all.filter((e) => e.kind === "undone").map((e) => e.batch));
  const lines = all.filter((e) => e.kind !== "kit" && e.kind !== "undone" && !(e.batch && undone.has(e.batch)));
  const byId = new Map(lines.map((e) => [e.id, e]));
  const corrected = new Set(lines.flatMap((e) => (e.corrects ? [e.corrects] : [])));
  const root = (e: LoggedEntry): LoggedEntry => {
    const before = e.corrects ? byId.get(e.corrects) : undefined;
    return before && before !== e ? root(before) : e;
  };
  const visits = new Map<string, VisitRow>();
  for (const e of lines) {
    const first = root(e);
    const key = first.visit || (first.batch ? `${first.batch} ${first.at}` : first.id);
    const row = visits.get(key) ?? { id: key, at: first.at, by: first.by ?? "", entries: [], corrected: [] };
    (corrected.has(e.id) ? row.corrected : row.entries).push(e);
    visits.set(key, row);
  }
  const shown = [...visits.values()]
    .filter((v) => v.entries.some(fits) || v.corrected.some(fits))
    .sort((a, b) => b.at.localeCompare(a.at));
  const days = new Map<string, VisitRow[]>();
  for (const v of shown) days.set(dayOf(v.at), [...(days.get(dayOf(v.at)) ?? []), v]);
  return [...days].map(([day, own]) => ({ day, visits: own }));
}

/** Entries of a visit that say the same of one thing, as one: the weights of a bank, one after the other. */
export function together(entries: LoggedEntry[], order: string[]): LoggedEntry[][] {
  const key = (e: LoggedEntry) => [e.kind, e.subject ?? "", "where" in e ? (e.where ?? "") : ""].join("|");
  const vessel = (e: LoggedEntry) => ("vessel" in e && typeof e.vessel === "number" ? e.vessel : 0);
  const sorted = [...entries].sort(
    (a, b) => order.indexOf(a.kind) - order.indexOf(b.kind) || key(a).localeCompare(key(b)) || vessel(a) - vessel(b),
  );
  const found: LoggedEntry[][] = [];
  for (const e of sorted) {
    const last = found.at(-1);
    if (last?.[0] && key(last[0]) === key(e) && vessel(e) > 0) last.push(e);
    else found.push([e]);
  }
  return found;
}
