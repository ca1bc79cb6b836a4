// The time now. Where the server's answers have shown that this device's clock is off it is the server's time; the device's own is kept beside it.
const KEY = "ofen.clock";
/** So far apart two clocks may be before one of them is wrong. */
export const CLOCK_OFF_S = 120;

let aheadS = Number(localStorage.getItem(KEY)) || 0;

/** Take note of how far this device's clock is ahead of the server's, as an answer has just shown. */
export function proven(ahead: number) {
  aheadS = ahead;
  try {
    localStorage.setItem(KEY, String(Math.round(ahead)));
  } catch {
    // Without room it is shown again by the next answer.
  }
}

const offS = () => (Math.abs(aheadS) >= CLOCK_OFF_S ? aheadS : 0);

/** Milliseconds since 1970. */
export const nowMs = (): number => Date.now() - offS() * 1000;

/** When something is recorded: the time now, and what this device's clock says where that is another. */
export function stamp(): { at: string; clock_at?: string } {
  const at = new Date(nowMs()).toISOString();
  return offS() === 0 ? { at } : { at, clock_at: new Date().toISOString() };
}
