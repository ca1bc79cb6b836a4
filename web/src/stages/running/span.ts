// A window of time and how it is zoomed and moved. No React in here.

export interface Span {
  /** In s since 1970. */
  begin: number;
  end: number;
}

const LEAST_S = 60;

/** Nearer (below 1) or farther round a share of the width. */
export function zoomed(span: Span, by: number, at: number): Span {
  const middle = span.begin + (span.end - span.begin) * at;
  return { begin: middle - (middle - span.begin) * by, end: middle + (span.end - middle) * by };
}

/** Moved by a share of the width. */
export function moved(span: Span, by: number): Span {
  const step = (span.end - span.begin) * by;
  return { begin: span.begin + step, end: span.end + step };
}

/** Never beyond the whole, never narrower than a minute; as wide as it was where there is room. */
export function clamped(span: Span, whole: Span): Span {
  const width = Math.min(Math.max(span.end - span.begin, LEAST_S), Math.max(LEAST_S, whole.end - whole.begin));
  const begin = Math.min(Math.max(span.begin, whole.begin), Math.max(whole.begin, whole.end - width));
  return { begin, end: begin + width };
}
