// The clock of this place, as the core is told of it: how far it is ahead of UTC, and from when on.
const DAY_MS = 86_400_000;
const BACK_DAYS = 20;
const AHEAD_DAYS = 40;

const aheadS = (ms: number) => -new Date(ms).getTimezoneOffset() * 60;

/** The moment between two at which the clock changes, to the second. */
function changed(from: number, to: number): number {
  let [before, after] = [from, to];
  while (after - before > 1000) {
    const middle = Math.floor((before + after) / 2);
    if (aheadS(middle) === aheadS(from)) before = middle;
    else after = middle;
  }
  return Math.round(after / 1000);
}

/** From when on the clock here is so far ahead of UTC (s since 1970, s), around a moment. */
export function offsetsAround(ms: number): [number, number][] {
  const begins = ms - BACK_DAYS * DAY_MS;
  const found: [number, number][] = [[0, aheadS(begins)]];
  for (let day = begins; day < ms + AHEAD_DAYS * DAY_MS; day += DAY_MS) {
    const then = aheadS(day + DAY_MS);
    if (then !== found.at(-1)?.[1]) found.push([changed(day, day + DAY_MS), then]);
  }
  return found;
}

const two = (n: number) => String(n).padStart(2, "0");

/** A moment by the clock here, with how far that is ahead of UTC. */
export function byTheClockHere(at: string): string {
  const ms = Date.parse(at);
  const ahead = aheadS(ms);
  const wall = new Date(ms + ahead * 1000).toISOString().slice(0, 19);
  const off = Math.abs(ahead) / 60;
  return `${wall}${ahead < 0 ? "-" : "+"}${two(Math.floor(off / 60))}:${two(off % 60)}`;
}

/** Today's date, or tomorrow's where an hour of the day is over, as YYYY-MM-DD by the clock here. */
export function nextDay(ms: number, clockS: number): string {
  const now = new Date(ms);
  const midnight = new Date(now.getFullYear(), now.getMonth(), now.getDate());
  const isOver = ms - midnight.getTime() > clockS * 1000;
  const day = new Date(now.getFullYear(), now.getMonth(), now.getDate() + (isOver ? 1 : 0));
  return [day.getFullYear(), day.getMonth() + 1, day.getDate()].map(two).join("-");
}
