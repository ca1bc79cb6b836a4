// Over a slow line what is needed first goes first: the engine, and the installing of the application, wait for the first plan.
const SLOW_BYTES_PER_S = 250_000;
const SOON_MS = 150;
const AFTER_PLAN_MS = 1_500;
const AT_LAST_MS = 30_000;

let shown: () => void = () => undefined;
const firstPlan = new Promise<void>((done) => {
  shown = done;
});

/** A plan stands on the screen: what comes next has time. */
export const planShown = () => shown();

/** Whether this page itself came slowly; one that lies on the device did not. */
export function isSlow(entries: PerformanceEntry[] = performance.getEntriesByType("resource")): boolean {
  const parts = (entries as PerformanceResourceTiming[]).filter((e) => e.transferSize > 20_000);
  const bytes = parts.reduce((sum, e) => sum + e.transferSize, 0);
  const seconds = parts.reduce((sum, e) => sum + e.responseEnd - e.startTime, 0) / 1000;
  return bytes > 0 && bytes / seconds < SLOW_BYTES_PER_S;
}

const after = (ms: number) => new Promise<void>((done) => setTimeout(done, ms));

/** Comes true when the line is free for what is large and not needed at once. */
export const lineFree = (): Promise<void> =>
  isSlow() ? Promise.race([firstPlan.then(() => after(AFTER_PLAN_MS)), after(AT_LAST_MS)]) : after(SOON_MS);
