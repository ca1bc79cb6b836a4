import { wholeJobOf } from "../engine/ask";
import type { Document } from "../job/document";
import type { Device } from "./device";

/** Offer a job as this device keeps it as a file; with a document, as that stands on the screen. */
export async function saveJob(device: Device, id: string, document?: Document) {
  const whole = await device.wholeJob(id);
  const now = document ? { ...whole, job: document } : whole;
  try {
    const asks = { document: now.job ?? {}, runs: now.runs, entries: now.log };
    saveFile(`job-${id}.zip`, await wholeJobOf(asks), "application/zip");
  } catch {
    // Where the engine cannot, the plain words of it can still be taken away, and brought in elsewhere.
    saveFile(`job-${id}.json`, JSON.stringify(now, null, 1));
  }
}

/** Offer something as a file to save. */
export function saveFile(name: string, content: BlobPart, type = "application/json") {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([content], { type }));
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
