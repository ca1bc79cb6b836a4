import type { Document } from "../job/document";
import type { Device } from "./device";

/** Offer a job as this device keeps it as a file; with a document, as that stands on the screen. */
export async function saveJob(device: Device, id: string, document?: Document) {
  const whole = await device.wholeJob(id);
  saveFile(`job-${id}.json`, JSON.stringify(document ? { ...whole, job: document } : whole, null, 1));
}

/** Offer a text as a file to save. */
export function saveFile(name: string, text: string, type = "application/json") {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type }));
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
