// A job file: to the server where there is signal; without, the job of it is made here, and the file is sent when there is.
import { t } from "@lingui/core/macro";
import { v7 as uuidv7 } from "uuid";
import { Problem } from "../api/client";
import { askHere } from "../engine/ask";
import { EngineFailure } from "../engine/engine";
import type { Device } from "./device";
import { sendFile } from "./sender";

const LARGEST_BYTES = 64 * 1024 * 1024;
const tooLarge = () => new Problem({ status: 413, title: t`This file is too large`, detail: t`The most is 64 MB.` });
const nobody = () =>
  new Problem({
    status: 0,
    title: t`This file cannot be read here now`,
    detail: t`There is no signal, and this device cannot read the file by itself. Import it when there is signal.`,
  });

/** Make a job of a file, whose id is returned; `by` is the person's name as the server says it. */
export async function bringIn(device: Device, by: string, file: File): Promise<string> {
  if (file.size > LARGEST_BYTES) throw tooLarge();
  const id = uuidv7();
  try {
    await sendFile(device.person, id, file.name, file);
    return id;
  } catch (problem) {
    if (!(problem instanceof Problem) || problem.status !== 0) throw problem;
  }
  try {
    const content = await file.arrayBuffer();
    const made = await askHere("bring_in", { job: id, by }, { [file.name]: new Uint8Array(content) });
    await device.bringIn({ id, name: file.name, content }, made, await picturesIn(content, made.pictures));
    return id;
  } catch (problem) {
    throw problem instanceof EngineFailure ? nobody() : problem;
  }
}

/** The pictures of a file that this device can show, by their ids. */
async function picturesIn(
  content: ArrayBuffer,
  told: readonly { id: string; kind: string; file: string }[],
): Promise<Map<string, ArrayBuffer>> {
  const wanted = new Map(told.filter((p) => p.kind === "image/jpeg").map((p) => [p.file, p.id]));
  if (wanted.size === 0) return new Map();
  const { unzipSync } = await import("fflate");
  const found = unzipSync(new Uint8Array(content), { filter: (f) => wanted.has(f.name) });
  return new Map(Object.entries(found).map(([name, bytes]) => [wanted.get(name) ?? "", bytes.slice().buffer]));
}
