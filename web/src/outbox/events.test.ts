// Events of a run on this device, in the order in which they were known; and pictures that wait.
import "fake-indexeddb/auto";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { Problem } from "../api/client";
import { Device, orderMs } from "./device";
import { PROCEDURE } from "./fakes";
import { MOST_BYTES, pictureOf, sendPhotos } from "./photos";

type Path = { photo_id: string };
const server = vi.hoisted(() => ({
  posted: [] as string[],
  answers: (_path: { photo_id: string }): Promise<unknown> => Promise.resolve({}),
}));
vi.mock("../api/client", async (original) => ({
  ...(await original<typeof import("../api/client")>()),
  answer: (call: Promise<unknown>) => call,
  api: {
    POST: (_address: string, { params }: { params: { path: Path } }) => {
      server.posted.push(params.path.photo_id);
      return server.answers(params.path);
    },
  },
}));

const remark = (id: string, at: string) => ({ id, at, kind: "remark", text: "x" });

let device: Device;
let person = 500;

beforeEach(() => {
  person += 1;
  device = new Device(person);
});

async function begun(): Promise<[string, string]> {
  const job = await device.makeJob({ name: "Depot" });
  return [job, await device.beginRun(job, "heater-1", PROCEDURE)];
}

describe("events of a run", () => {
  it("each say after which they came, however the clock is set", async () => {
    const [job, run] = await begun();
    const clocks = ["2026-01-12T06:00:00Z", "2026-01-11T06:00:00Z", "2026-01-11T06:01:00Z", "2026-01-13T06:00:00Z"];
    for (const [n, at] of clocks.entries()) await device.recordEvent(job, run, remark(`e${n}`, at));
    const bodies = (await device.db.records.where("owner").equals(run).toArray()).map((r) => r.body);
    const orders = ["e0", "e1", "e2", "e3"].map((id) => orderMs(bodies.find((b) => b.id === id) ?? remark("", "")));
    expect([...orders].sort((a, b) => a - b)).toEqual(orders);
    expect(new Set(orders).size).toBe(4);
    expect(orders[1]).toBe((orders[0] ?? 0) + 1);
  });

  it("come after what others are known to have done", async () => {
    const [job, run] = await begun();
    await device.db.runs.update(run, { newestMs: Date.parse("2026-02-01T00:00:00Z") });
    await device.recordEvent(job, run, remark("e", "2026-01-12T06:00:00Z"));
    const body = (await device.db.records.get("e"))?.body ?? remark("", "");
    expect(orderMs(body)).toBe(Date.parse("2026-02-01T00:00:00Z") + 1);
  });
});

describe("pictures", () => {
  it("are refused where they are none, or far too large", async () => {
    vi.stubGlobal("createImageBitmap", () => Promise.reject(new Error("no")));
    await expect(pictureOf(new Blob(["no picture"]))).rejects.toThrow("This file is not a picture");
    await expect(pictureOf({ size: 200 * 1024 * 1024 } as Blob)).rejects.toThrow("This file has 200 MB");
    expect(MOST_BYTES).toBe(10 * 1024 * 1024);
    vi.unstubAllGlobals();
  });

  it("wait for signal, are sent once, and one that is refused is named", async () => {
    const [id, wrong] = await Promise.all(
      ["picture", "another"].map((text) => device.keepPhoto("j", new TextEncoder().encode(text).buffer)),
    );
    server.answers = () => Promise.reject(new Problem({ status: 0, title: "No answer", detail: "" }));
    await sendPhotos(device);
    expect(await device.db.photos.where("sent").equals(0).count()).toBe(2);
    server.answers = (path) =>
      path.photo_id === wrong
        ? Promise.reject(new Problem({ status: 422, title: "This file is not a picture", detail: "A JPEG." }))
        : Promise.resolve({ id: path.photo_id });
    await sendPhotos(device);
    await sendPhotos(device);
    expect((await device.db.photos.get(id ?? ""))?.sent).toBe(1);
    expect(await device.db.photos.get(wrong ?? "")).toMatchObject({ sent: 2, refusal: "This file is not a picture. A JPEG." });
    expect(server.posted).toEqual([id, id, wrong]);
  });

  it("keep their job on the device until the server has them, and go with it then", async () => {
    const [job] = await begun();
    await device.db.outbox.clear();
    const id = await device.keepPhoto(job, new ArrayBuffer(3));
    expect(await device.forget(job)).toBe(false);
    await device.db.photos.update(id, { sent: 1 });
    expect(await device.forget(job)).toBe(true);
    expect(await device.db.photos.get(id)).toBeUndefined();
  });
});
