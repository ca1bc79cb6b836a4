// A job file taken in without signal: sent by itself, once, before all that was done on it here.
import "fake-indexeddb/auto";
import { zipSync } from "fflate";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { Problem } from "../api/client";
import type { Answers } from "../api/client";
import { askHere } from "../engine/ask";
import { bringIn } from "./bringIn";
import { Device } from "./device";
import { AT, DOCUMENT, FakeServer, PROCEDURE, SILENT, copyOf, entry } from "./fakes";
import { Sender, sendFile } from "./sender";
import { saidOf } from "./WaitingLine";

vi.mock("../engine/ask", () => ({ planDigest: () => Promise.resolve(null), askHere: vi.fn() }));
vi.mock("./photos", () => ({ sendPhotos: () => Promise.resolve() }));

const PICTURE = Uint8Array.of(1, 2, 3);
const MADE: Answers<"bring_in"> = {
  documents: [
    { id: "rev-1", document: DOCUMENT },
    { id: "rev-2", document: { ...DOCUMENT, note: "later" } },
  ],
  runs: [{ id: "run", unit: "heater-1", procedure: PROCEDURE, events: [{ id: "event", at: AT, kind: "check" }] }],
  entries: [entry(1)],
  pictures: [
    { id: "photo", kind: "image/jpeg", file: "photos/photo.jpg" },
    { id: "permit", kind: "application/pdf", file: "photos/permit.pdf" },
  ],
};

let device: Device;
let server: FakeServer;
let sent: string[];
let person = 700;
/** What the server says to a file, null that it has taken it. */
let refusal: Problem | null;
const postFile: typeof sendFile = (whose, job, name, content) => {
  sent.push(`${job} ${name} ${whose === person && (content as ArrayBuffer).byteLength > 0}`);
  return refusal ? Promise.reject(refusal) : Promise.resolve();
};
const senderOf = (isMe = true) => new Sender(device, "1", () => Promise.resolve(isMe), server.post, "Mirel", undefined, postFile);
const rows = () => device.db.outbox.orderBy("seq").toArray();

/** Take the file in while the server does not answer. */
async function taken(): Promise<string> {
  vi.stubGlobal("fetch", () => Promise.reject(new TypeError("no signal")));
  vi.mocked(askHere).mockResolvedValue(structuredClone(MADE));
  const content = zipSync({ "photos/photo.jpg": PICTURE, "photos/permit.pdf": PICTURE });
  return bringIn(device, "Mirel", new File([content.slice().buffer], "job.zip"));
}

async function drain(who = senderOf()) {
  await vi.waitFor(async () => {
    who.wake();
    expect((await rows()).filter((r) => r.stuck === null)).toEqual([]);
  }, 10_000);
  who.stop();
}

beforeEach(() => {
  person += 1;
  device = new Device(person);
  server = new FakeServer();
  sent = [];
  refusal = null;
});

describe("a job file taken in without signal", () => {
  it("is a job here at once, with its records and the pictures that can be shown, and none of that is sent by itself", async () => {
    const id = await taken();
    expect(await device.db.jobs.get(id)).toMatchObject({ document: { note: "later" }, head: "rev-2", base: null });
    expect(await device.db.runs.get("run")).toMatchObject({ job: id, newestMs: Date.parse(AT), signed: null });
    expect((await device.db.records.where("job").equals(id).toArray()).map((r) => [r.id, r.sent])).toEqual([
      ["e1", 1],
      ["event", 1],
    ]);
    expect((await device.db.photos.toArray()).map((p) => [p.id, p.job, p.sent, p.picture.byteLength])).toEqual([
      ["photo", id, 1, 3],
    ]);
    expect(saidOf(await rows())).toBe("1 job file");
    expect(await device.forget(id)).toBe(false);
  });

  it("goes first, once, and what was done on it here behind it", async () => {
    const id = await taken();
    await device.edit(id, [{ path: "note", value: "mine" }], 0);
    await device.recordEntries(id, [entry(2)]);
    await device.recordEvent(id, "run", { id: "more", at: AT, kind: "check" });
    await drain();
    expect(sent).toEqual([`${id} job.zip true`]);
    expect([...server.kept.values()].map((r) => [r.kind, "based_on" in r ? r.based_on : r.id])).toEqual([
      ["revision", "rev-2"],
      ["entry", "e2"],
      ["event", "more"],
    ]);
    expect(await device.db.files.count()).toBe(0);
    expect((await device.db.jobs.get(id))?.base?.document).toMatchObject({ note: "mine" });
  });

  it("is sent again under the same id where nobody knows whether it arrived", async () => {
    const id = await taken();
    refusal = SILENT;
    const who = senderOf();
    who.wake();
    await vi.waitFor(() => expect(who.get().silent).toBe(true));
    expect(await device.db.files.count()).toBe(1);
    refusal = null;
    await drain(who);
    expect(new Set(sent)).toEqual(new Set([`${id} job.zip true`]));
    expect(who.get().silent).toBe(false);
  });

  it.each([403, 409, 422])(
    "that the server refuses (%d) is kept with why, holds back what builds on it and nothing else, and can be let go",
    async (status) => {
      const id = await taken();
      await device.recordEntries(id, [entry(2)]);
      await device.takeIn(copyOf("other"));
      await device.recordEntries("other", [entry(3)]);
      refusal = new Problem({ status, title: "Refused", detail: "It is." });
      const who = senderOf();
      who.lostSignal();
      await vi.waitFor(async () => {
        who.wake();
        expect([...server.kept.keys()]).toEqual(["e3"]);
        expect((await rows()).map((r) => [r.record.kind, r.stuck])).toEqual([
          ["file", "refused"],
          ["entry", null],
        ]);
      }, 10_000);
      expect((await rows())[0]?.problem?.title).toBe("Refused");
      expect(who.get().silent).toBe(false);
      who.stop();
      await device.letGo(id);
      expect([
        await device.db.outbox.count(),
        await device.db.files.count(),
        await device.db.jobs.get(id),
        await device.db.photos.count(),
      ]).toEqual([0, 0, undefined, 0]);
      expect(await device.db.jobs.get("other")).toBeDefined();
    },
  );

  it("waits for its own person where somebody else is signed in", async () => {
    await taken();
    refusal = new Problem({ status: 403, title: "Someone else is signed in here", detail: "" });
    const who = senderOf(false);
    who.wake();
    await vi.waitFor(() => expect(who.get().signedOut).toBe(true));
    who.stop();
    expect((await rows()).map((r) => [r.record.kind, r.stuck])).toEqual([["file", null]]);
    expect(await device.db.files.count()).toBe(1);
  });

  it("over which the server stumbles lets the others go on", async () => {
    await taken();
    await device.takeIn(copyOf("other"));
    await device.recordEntries("other", [entry(3)]);
    refusal = new Problem({ status: 500, title: "Something failed here", detail: "" });
    const who = senderOf();
    who.wake();
    await vi.waitFor(() => expect([...server.kept.keys()]).toEqual(["e3"]));
    who.stop();
    expect((await rows()).map((r) => r.record.kind)).toEqual(["file"]);
  });

  it("stands for all of its job when the server has gone back to an older moment", async () => {
    await device.meet("first");
    const id = await taken();
    await device.meet("second");
    await device.offerAgain(id, null, "Mirel");
    expect((await rows()).map((r) => r.record.kind)).toEqual(["file"]);
    await drain();
    expect(server.kept.size).toBe(0);
    expect(sent).toHaveLength(1);
  });

  it("that alone is refused is waited for no signal any more", async () => {
    await taken();
    refusal = new Problem({ status: 422, title: "Refused", detail: "It is." });
    const who = senderOf();
    who.lostSignal();
    await drain(who);
    expect([who.get().silent, (await rows())[0]?.stuck]).toEqual([false, "refused"]);
  });

  it("that nobody could make a job of is refused before anything of it is kept", async () => {
    vi.stubGlobal("fetch", () => Promise.reject(new TypeError("no signal")));
    vi.mocked(askHere).mockRejectedValue(
      new Problem({
        status: 422,
        title: "Some values cannot be used",
        detail: "",
        faults: [{ path: "job.json", message: "is missing" }],
      }),
    );
    await expect(bringIn(device, "Mirel", new File(["x"], "job.zip"))).rejects.toThrow("Some values cannot be used");
    expect([await device.db.outbox.count(), await device.db.files.count(), await device.db.jobs.count()]).toEqual([0, 0, 0]);
  });
});
