// Events and log entries made on this device: kept in the browser until the server has them, sent again until it says so.
import { Problem } from "../api/client";

export interface DeviceRecord {
  id: string;
  at: string;
  [field: string]: unknown;
}

/** A UUID (version 7): ids made on one device sort by time. */
export function freshUuid(now = Date.now()): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  for (let i = 0; i < 6; i += 1) bytes[i] = Math.floor(now / 2 ** (8 * (5 - i))) & 0xff;
  bytes[6] = ((bytes[6] ?? 0) & 0x0f) | 0x70;
  bytes[8] = ((bytes[8] ?? 0) & 0x3f) | 0x80;
  const hex = [...bytes].map((b) => b.toString(16).padStart(2, "0")).join("");
  return `${hex.slice(0, 8)}-${hex.slice(8, 12)}-${hex.slice(12, 16)}-${hex.slice(16, 20)}-${hex.slice(20)}`;
}

const key = (owner: string) => `ofen.records.${owner}`;

/** What waits for the server, oldest first. */
export function waitingRecords(owner: string): DeviceRecord[] {
  try {
    return JSON.parse(localStorage.getItem(key(owner)) ?? "[]") as DeviceRecord[];
  } catch {
    return [];
  }
}

function store(owner: string, records: DeviceRecord[]) {
  if (records.length === 0) localStorage.removeItem(key(owner));
  else localStorage.setItem(key(owner), JSON.stringify(records));
}

/** Keep new records, then send all that wait; what was sent is forgotten only once the server has it. */
export async function sendRecords<T>(owner: string, added: DeviceRecord[], post: (records: DeviceRecord[]) => Promise<T>): Promise<T> {
  store(owner, [...waitingRecords(owner), ...added]);
  const sending = waitingRecords(owner);
  try {
    const got = await post(sending);
    const sent = new Set(sending.map((r) => r.id));
    store(owner, waitingRecords(owner).filter((r) => !sent.has(r.id)));
    return got;
  } catch (problem) {
    // Refused for what it says: sending it again would be refused again, so the person gets it back to correct.
    if (problem instanceof Problem && (problem.status === 422 || problem.status === 409)) {
      const refused = new Set(added.map((r) => r.id));
      store(owner, waitingRecords(owner).filter((r) => !refused.has(r.id)));
    }
    throw problem;
  }
}
