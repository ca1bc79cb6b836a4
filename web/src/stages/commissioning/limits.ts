import type { Quantities } from "../../app/context";

interface Limit {
  low: number | null;
  high: number | null;
}

/** The limits in a line, one-sided where there is one. */
export function within(limit: Limit | null, kind: string, q: Quantities): string {
  const { low, high } = limit ?? { low: null, high: null };
  if (low !== null && high !== null) return `${q.split(low, kind).number}–${q.show(high, kind)}`;
  if (low !== null) return `at least ${q.show(low, kind)}`;
  return high === null ? "" : `at most ${q.show(high, kind)}`;
}
