// How much room this device has, whether it may clear what is kept, and whether it has. Said before it hurts.

export interface Room {
  /** Share of the room used, null where the browser does not say. */
  share: number | null;
  leftBytes: number | null;
  /** Whether the browser has promised not to clear it. */
  lasting: boolean | null;
}

export const TIGHT_SHARE = 0.8;
export const TIGHT_BYTES = 20 * 1024 * 1024;

export async function room(): Promise<Room> {
  const { storage } = navigator;
  if (!storage?.estimate) return { share: null, leftBytes: null, lasting: null };
  const { usage, quota } = await storage.estimate();
  const lasting = storage.persisted ? await storage.persisted() : null;
  if (usage === undefined || !quota) return { share: null, leftBytes: null, lasting };
  return { share: usage / quota, leftBytes: quota - usage, lasting };
}

export const isTight = (r: Room) =>
  (r.share !== null && r.share > TIGHT_SHARE) || (r.leftBytes !== null && r.leftBytes < TIGHT_BYTES);

/** Ask the browser not to clear what is kept; it may say no. */
export async function askToKeep(): Promise<void> {
  await navigator.storage?.persist?.();
}

const key = (person: number) => `ofen.waits.${person}`;

/** Note how much waits, beside the database: a mark that outlives it shows that the browser has cleared it. */
export function noteWaiting(person: number, count: number) {
  if (count === 0) localStorage.removeItem(key(person));
  else localStorage.setItem(key(person), String(count));
}

/** What still waits on this device, and for whom, as it was told when they signed out. */
export interface LeftBehind {
  person: number;
  name: string;
  waits: string;
}

const leftKey = (person: number) => `ofen.left-behind.${person}`;

/** Note what waits for somebody who signs out; "" where nothing does. */
export function noteLeft(person: number, name: string, waits: string) {
  if (waits === "") localStorage.removeItem(leftKey(person));
  else localStorage.setItem(leftKey(person), JSON.stringify({ person, name, waits } satisfies LeftBehind));
}

/** Whose records wait on this device until they sign in again. */
export function leftBehind(): LeftBehind[] {
  const keys = Object.keys(localStorage).filter((k) => k.startsWith("ofen.left-behind."));
  return keys.flatMap((k) => {
    try {
      return [JSON.parse(localStorage.getItem(k) ?? "") as LeftBehind];
    } catch {
      return [];
    }
  });
}

/** How many records waited here that are gone. */
export function lost(person: number, count: number): number {
  return Math.max(0, Number(localStorage.getItem(key(person)) ?? 0) - count);
}
