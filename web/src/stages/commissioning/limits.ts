import { t } from "@lingui/core/macro";
import type { Quantities } from "../../app/context";

interface Limit {
  low: number | null;
  high: number | null;
}

/** The limits in a line, one-sided where there is one. */
export function within(limit: Limit | null, kind: string, q: Quantities): string {
  const { low, high } = limit ?? { low: null, high: null };
  if (low !== null && high !== null) return `${q.split(low, kind).number}–${q.show(high, kind)}`;
  if (low !== null) return t`at least ${q.show(low, kind)}`;
  return high === null ? "" : t`at most ${q.show(high, kind)}`;
}

/** On which side of its limits a reading lies, and how far; null within them. */
export function beyond(value: number | null, limit: Limit | null): { side: "low" | "high"; by: number } | null {
  if (value === null || !limit) return null;
  if (limit.low !== null && value < limit.low) return { side: "low", by: limit.low - value };
  return limit.high !== null && value > limit.high ? { side: "high", by: value - limit.high } : null;
}
