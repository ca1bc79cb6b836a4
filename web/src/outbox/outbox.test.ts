// The device store and the sender against a server that may be silent, deaf, repeated or late. Every record entered is counted.
import "fake-indexeddb/auto";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { planDigest } from "../engine/ask";
import { type JobCopy, type OutboxResult, Problem } from "../api/client";
import type { Document } from "../job/document";
import type { WireRecord } from "./db";
import { Device, TYPING_MS } from "./device";
import { AT, DOCUMENT, FakeServer, PROCEDURE, SILENT, copyOf, entry } from "./fakes";
import { sendPhotos } from "./photos";
import { Sender, cut } from "./sender";
import { saidOf } from "./WaitingLine";

vi.mock("../engine/ask", () => ({ planDigest: vi.fn(() => Promise.resolve(null)) }));

vi.mock("./photos", () => ({ sendPhotos: vi.fn(() => Promise.resolve()) }));

let device: Device;
let server: FakeServer;
let sender: Sender;
let person = 0;
const makeSender = (d = device) => new Sender(d, "1", () => Promise.resolve(true), server.post);

/** Wake the sender until nothing that can be sent is left. */
async function drain(who = sender) {
  for (let n = 0; n < 60; n += 1) {
    who.wake();
    await new Promise((done) => setTimeout(done, 15));
    const rows = await device.db.outbox.toArray();
    if (rows.every((r) => r.stuck !== null) && !who.get().sending) return;
  }
}
const documentOf = async (id: string) => (await device.db.jobs.get(id))?.document;
const revisions = () => [...server.kept.values()].filter((r) => r.kind === "revision");

beforeEach(() => {
  person += 1;
  device = new Device(person);
  server = new FakeServer();
  sender = makeSender();
});

describe("editing on a device", () => {
  it("makes one revision of what is typed in one go, and never touches one that may have been sent", async () => {
    await device.takeIn(copyOf("j"));
    for (const note of ["a", "ab", "abc"]) await device.edit("j", [{ path: "note", value: note }]);
    expect(await device.db.outbox.count()).toBe(1);
    await device.db.outbox.toCollection().modify({ attempted: 1 });
    await device.edit("j", [{ path: "note", value: "abcd" }]);
    const rows = await device.db.outbox.orderBy("seq").toArray();
    expect(rows.map((r) => (r.record.kind === "revision" ? [r.record.based_on, r.record.document["note"]] : []))).toEqual([
      ["r1", "abc"],
      [rows[0]?.id, "abcd"],
    ]);
  });

  it("sends the last of what is typed while it is being sent", async () => {
    await device.takeIn(copyOf("j"));
    for (let n = 0; n < 40; n += 1) {
      const typing = device.edit("j", [{ path: "note", value: `note ${n}` }], Date.now() - TYPING_MS);
      sender.wake();
      if (n % 3 === 0) await typing;
    }
    await drain();
    expect(server.heads.get("j")?.document).toMatchObject({ note: "note 39" });
    expect(await documentOf("j")).toMatchObject({ note: "note 39" });
  });

  it("puts edits of two tabs together", async () => {
    await device.takeIn(copyOf("j"));
    const other = new Device(person);
    await Promise.all([
      device.edit("j", [{ path: "note", value: "one tab" }]),
      other.edit("j", [{ path: "site.place", value: "other tab" }]),
    ]);
    expect(await documentOf("j")).toMatchObject({ note: "one tab", site: { place: "other tab" } });
    await new Promise((done) => setTimeout(done, TYPING_MS + 50));
    await Promise.all([drain(), drain(makeSender(other))]);
    expect(server.heads.get("j")?.document).toMatchObject({ note: "one tab", site: { place: "other tab" } });
  });

  it("keeps what is no value yet, and forgets it once it is settled", async () => {
    await device.takeIn(copyOf("j"));
    await device.draft("j", "note", "half");
    expect((await device.db.jobs.get("j"))?.drafts).toEqual({ note: "half" });
    await device.edit("j", [{ path: "note", value: "whole" }]);
    expect((await device.db.jobs.get("j"))?.drafts).toEqual({});
  });

  it("does not let the server's older state overwrite what waits here", async () => {
    await device.takeIn(copyOf("j"));
    await device.edit("j", [{ path: "note", value: "mine" }]);
    await device.takeIn(copyOf("j", { ...DOCUMENT, note: "server" }, "r2"));
    expect(await documentOf("j")).toMatchObject({ note: "mine" });
  });
});

describe("sending", () => {
  it("sends a job made here with all that was done in it, in order, and is empty then", async () => {
    const id = await device.makeJob(DOCUMENT);
    const run = await device.beginRun(id, "heater-1", PROCEDURE);
    for (const n of [1, 2, 3]) await device.recordEvent(id, run, { id: `v${n}`, at: AT, kind: "remark", text: "x" });
    await device.signOff(id, run, "Mirel");
    await device.recordEntries(id, [entry(1)]);
    await drain();
    expect([...server.kept.values()].map((r) => r.kind)).toEqual(["job", "run", "event", "event", "event", "sign_off", "entry"]);
    expect(await device.db.outbox.count()).toBe(0);
    expect(await device.db.records.filter((r) => r.sent === 0).count()).toBe(0);
    expect(await device.db.runs.get(run)).toMatchObject({ signed: { by: "Mirel" }, signedHere: null });
  });

  it("takes note of hundreds of records at once, and counts each", async () => {
    await device.takeIn(copyOf("j"));
    const before = await device.arrivals("j");
    await device.recordEntries(
      "j",
      Array.from({ length: 300 }, (_, n) => entry(n)),
    );
    await drain();
    expect(await device.db.outbox.count()).toBe(0);
    expect(sender.state.trouble).toBe("");
    expect((await device.db.jobs.get("j"))?.arrivals).toBe(before + 300);
  });

  it("keeps no trouble once nothing waits any more", async () => {
    await device.takeIn(copyOf("j"));
    await device.recordEntries("j", [entry(1)]);
    const told = vi.spyOn(console, "error").mockImplementation(() => undefined);
    vi.mocked(sendPhotos).mockImplementationOnce(() => Promise.reject(new TypeError("no such picture")));
    sender.wake();
    await vi.waitFor(() => expect(told).toHaveBeenCalled(), 10_000);
    await vi.waitFor(() => expect(sender.state).toMatchObject({ trouble: "", sending: false }), 10_000);
    expect(await device.db.outbox.count()).toBe(0);
    told.mockRestore();
  });

  it("says of a sign-off that was not taken when it was made and why, until somebody has read it", async () => {
    await device.takeIn(copyOf("j"));
    const run = await device.beginRun("j", "heater-1", PROCEDURE);
    await device.signOff("j", run, "Mirel");
    const at = (await device.db.runs.get(run))?.signedHere?.at;
    const why = { type: "", status: 409, title: "Gates are still open", detail: "Dark patches were recorded after it." };
    const post = (records: WireRecord[]) =>
      Promise.resolve({
        core_version: "1",
        results: records.map((r): OutboxResult =>
          r.kind === "sign_off"
            ? { id: r.id, outcome: "refused", device_agrees: null, problem: why }
            : { id: r.id, outcome: "kept", device_agrees: null, problem: null },
        ),
      });
    sender = new Sender(device, "1", () => Promise.resolve(true), post);
    await drain();
    expect(await device.db.runs.get(run)).toMatchObject({ signed: null, signedHere: null, refusal: why, refusedAt: at });
    await device.refusalRead(run);
    expect(await device.db.runs.get(run)).toMatchObject({ refusal: null, refusedAt: null });
  });

  it("sends what became ready while pictures were on their way, without being woken again", async () => {
    await device.takeIn(copyOf("j"));
    await device.edit("j", [{ path: "note", value: "typed" }], Date.now() - TYPING_MS + 40);
    vi.mocked(sendPhotos).mockImplementationOnce(() => new Promise((done) => setTimeout(done, 120)));
    sender.wake();
    await vi.waitFor(() => expect(server.heads.get("j")?.document).toMatchObject({ note: "typed" }), 10_000);
  });

  it("says what it stumbled over that nobody foresaw, and tries again by itself", async () => {
    await device.takeIn(copyOf("j"));
    await device.recordEntries("j", [entry(1)]);
    const told = vi.spyOn(console, "error").mockImplementation(() => undefined);
    server.before = (n) => {
      if (n === 1) throw new TypeError("no such thing");
    };
    sender.wake();
    await vi.waitFor(() => expect(sender.state.trouble).toContain("no such thing"), 10_000);
    expect(told).toHaveBeenCalled();
    expect(await device.db.outbox.count()).toBe(1);
    await vi.waitFor(() => expect([...server.kept.keys()]).toEqual(["e1"]), 10_000);
    await vi.waitFor(() => expect(sender.state).toMatchObject({ trouble: "", sending: false }), 10_000);
    told.mockRestore();
  });

  it("a run pins the revision it was begun by", async () => {
    await device.takeIn(copyOf("j"));
    await device.edit("j", [{ path: "note", value: "begun by this" }]);
    await device.beginRun("j", "heater-1", PROCEDURE);
    await device.edit("j", [{ path: "note", value: "later" }], Date.now() - TYPING_MS);
    await drain();
    const [first, second] = revisions();
    const run = [...server.kept.values()].find((r) => r.kind === "run");
    expect(run).toMatchObject({ revision_id: first?.id });
    expect(second).toMatchObject({ based_on: first?.id, document: { note: "later" } });
  });

  it.each([
    [
      "the connection flaps",
      (s: FakeServer) =>
        (s.before = (n) => {
          if (n % 2 === 1) throw SILENT;
        }),
    ],
    [
      "every reply is lost once after the server has kept the records",
      (s: FakeServer) =>
        (s.after = (n) => {
          if (n % 2 === 1) throw SILENT;
        }),
    ],
    [
      "the server fails now and then",
      (s: FakeServer) =>
        (s.before = (n) => {
          if ([1, 2, 4, 6, 7].includes(n % 11)) throw new Problem({ status: 500, title: "Broken", detail: "" });
        }),
    ],
  ])("loses nothing and doubles nothing while %s", async (_, harm) => {
    harm(server);
    await device.takeIn(copyOf("j"));
    for (let n = 0; n < 100; n += 1) {
      await device.recordEntries("j", [entry(n)]);
      if (n % 10 === 0) sender.wake();
    }
    await drain();
    expect(server.kept.size).toBe(100);
    expect(await device.db.outbox.count()).toBe(0);
    expect(await device.db.records.filter((r) => r.sent === 1).count()).toBe(100);
  });

  it("lets no record that the server cannot take hold up those behind it", async () => {
    const poison = ["e3", "e17"];
    const post = (records: WireRecord[]) => {
      if (records.some((r) => r.kind === "entry" && r.body["value"] === 3))
        throw new Problem({ status: 422, title: "No JSON that can be kept", detail: "" });
      if (records.some((r) => r.kind === "entry" && r.body["value"] === 17))
        throw new Problem({ status: 500, title: "Broken", detail: "" });
      if (records.length > 8) throw new Problem({ status: 413, title: "This file is too large", detail: "" });
      return server.post(records);
    };
    sender = new Sender(device, "1", () => Promise.resolve(true), post);
    await device.takeIn(copyOf("j"));
    await device.recordEntries(
      "j",
      Array.from({ length: 40 }, (_, n) => entry(n)),
    );
    await drain();
    for (let n = 40; n < 60; n += 1) {
      await device.recordEntries("j", [entry(n)]);
      for (let turn = 0; turn < 3; turn += 1) {
        sender.wake();
        await new Promise((done) => setTimeout(done, 10));
      }
    }
    await drain();
    expect([...server.kept.keys()].sort()).toEqual(
      Array.from({ length: 60 }, (_, n) => `e${n}`)
        .filter((id) => !poison.includes(id))
        .sort(),
    );
    const left = await device.db.outbox.toArray();
    expect(left.map((w) => [w.id, w.stuck, w.problem?.title])).toEqual([
      ["e3", "refused", "No JSON that can be kept"],
      ["e17", "refused", "Broken"],
    ]);
  });

  it("cuts what it sends by bytes", () => {
    const rows = Array.from(
      { length: 10 },
      (_, n) =>
        ({
          id: String(n),
          job: "j",
          record: { kind: "entry", id: String(n), job: "j", body: { id: String(n), at: AT, remark: "x".repeat(1000) } },
          attempted: 0,
          readyAt: 0,
          stuck: null,
          problem: null,
        }) as const,
    );
    expect(cut([...rows], 3500)).toHaveLength(3);
    expect(cut([...rows], 10)).toHaveLength(1);
    expect(cut([...rows])).toHaveLength(10);
  });

  it("sends what was typed while a document was on its way that was refused", async () => {
    await device.takeIn(copyOf("j"));
    await device.edit("j", [{ path: "note", value: "bad" }], Date.now() - TYPING_MS);
    let typing: Promise<void> | null = null;
    const post = (records: WireRecord[]) => {
      typing ??= device.edit("j", [{ path: "note", value: "good" }], Date.now() - TYPING_MS);
      const bad = records.filter((r) => r.kind === "revision" && r.document["note"] === "bad");
      if (bad.length === 0) return server.post(records);
      const refused = (r: WireRecord): OutboxResult => ({
        id: r.id,
        outcome: "refused",
        device_agrees: null,
        problem: { type: "", status: 422, title: "Cannot be used", detail: "" },
      });
      return typing.then(() => ({ core_version: "1", results: records.map(refused) }));
    };
    sender = new Sender(device, "1", () => Promise.resolve(true), post);
    await drain();
    expect(await device.db.outbox.toArray()).toEqual([]);
    expect(server.heads.get("j")?.document).toMatchObject({ note: "good" });
  });

  it("sends a new job again once it is corrected, and the run begun by it", async () => {
    const post = (records: WireRecord[]) => {
      const results = records.map((r): OutboxResult =>
        r.kind === "job" && r.document["note"] === "bad"
          ? {
              id: r.id,
              outcome: "refused",
              device_agrees: null,
              problem: { type: "", status: 422, title: "Cannot be used", detail: "" },
            }
          : { id: r.id, outcome: "waits", device_agrees: null, problem: null },
      );
      return results.every((r) => r.outcome !== "waits") || records.some((r) => r.kind === "job" && r.document["note"] === "bad")
        ? Promise.resolve({ core_version: "1", results })
        : server.post(records);
    };
    sender = new Sender(device, "1", () => Promise.resolve(true), post);
    const id = await device.makeJob({ ...DOCUMENT, note: "bad" });
    await device.beginRun(id, "heater-1", PROCEDURE);
    await drain();
    expect((await device.db.outbox.orderBy("seq").toArray()).map((w) => w.stuck)).toEqual(["refused", null]);
    await device.edit(id, [{ path: "note", value: "good" }], Date.now() - TYPING_MS);
    await drain();
    expect(await device.db.outbox.count()).toBe(0);
    const made = [...server.kept.values()];
    const [job, run] = [made.find((r) => r.kind === "job"), made.find((r) => r.kind === "run")];
    expect(job).toMatchObject({ id, document: { note: "good" } });
    expect(run).toMatchObject({ revision_id: job?.kind === "job" ? job.revision_id : "" });
  });

  it("is not rolled back by a slow copy that a save has overtaken", async () => {
    await device.takeIn(copyOf("j"));
    const asked = await device.arrivals("j");
    const slow = copyOf("j");
    await device.edit("j", [{ path: "note", value: "newer" }], Date.now() - TYPING_MS);
    await drain();
    await device.takeIn(slow, true, asked);
    expect(await documentOf("j")).toMatchObject({ note: "newer" });
    await device.takeIn(copyOf("j", { ...DOCUMENT, note: "newest" }, "r9"), true, await device.arrivals("j"));
    expect(await documentOf("j")).toMatchObject({ note: "newest" });
  });

  it("two tabs sending at once double nothing", async () => {
    await device.takeIn(copyOf("j"));
    await device.recordEntries(
      "j",
      Array.from({ length: 30 }, (_, n) => entry(n)),
    );
    const other = new Device(person);
    await Promise.all([drain(), drain(makeSender(other))]);
    expect(server.kept.size).toBe(30);
    expect(await device.db.outbox.count()).toBe(0);
  });

  it("waits for sign-in when the session has ended, and goes on after it", async () => {
    let ended = true;
    server.before = () => {
      if (ended) throw new Problem({ status: 401, title: "Sign in first", detail: "" });
    };
    const waiting = new Sender(device, "1", () => Promise.resolve(false), server.post);
    await device.takeIn(copyOf("j"));
    await device.recordEntries("j", [entry(1)]);
    waiting.wake();
    await vi.waitFor(() => expect(waiting.get().signedOut).toBe(true));
    expect(await device.db.outbox.count()).toBe(1);
    ended = false;
    waiting.signedIn(true);
    await vi.waitFor(async () => expect(await device.db.outbox.count()).toBe(0));
  });

  it("sends nothing more once the person has left, though it was just about to", async () => {
    const leaving = makeSender();
    vi.mocked(planDigest).mockImplementationOnce(() => Promise.resolve(leaving.stop()).then(() => null));
    await device.takeIn(copyOf("j"));
    await device.edit("j", [{ path: "note", value: "mine" }], Date.now() - TYPING_MS);
    leaving.wake();
    await vi.waitFor(() => expect(leaving.get()).toMatchObject({ sending: false }));
    await vi.waitFor(async () => expect((await device.db.outbox.toArray()).map((w) => w.attempted)).toEqual([1]));
    expect(server.posts).toBe(0);
    await drain();
    expect(server.heads.get("j")?.document).toMatchObject({ note: "mine" });
  });

  it("marks what is refused for what it says, sends the rest, and lets the person discard it", async () => {
    await device.takeIn(copyOf("j"));
    await device.recordEntries("j", [entry(1), entry(666), entry(2)]);
    await drain();
    expect([...server.kept.keys()]).toEqual(["e1", "e2"]);
    expect((await device.db.records.get("e666"))?.refusal?.title).toBe("Not possible");
    await device.discardRefused("e666");
    expect(await device.db.outbox.count()).toBe(0);
    expect(await device.db.records.get("e666")).toBeUndefined();
  });

  it("says where this device's rules are older than the server's, or its plan came out otherwise, and sends all the same", async () => {
    await device.takeIn(copyOf("j"));
    await device.recordEntries("j", [entry(1)]);
    const older = new Sender(device, "0", () => Promise.resolve(true), server.post);
    await drain(older);
    expect(older.get().oldRules).toBe(true);
    expect(server.kept.size).toBe(1);
    await device.recordEntries("j", [entry(2)]);
    await drain();
    expect(sender.get().oldRules).toBe(false);
    const otherwise = new Sender(
      device,
      "1",
      () => Promise.resolve(true),
      async (records) => {
        const got = await server.post(records);
        return { ...got, results: got.results.map((r) => ({ ...r, device_agrees: false })) };
      },
    );
    await device.recordEntries("j", [entry(3)]);
    await drain(otherwise);
    expect(otherwise.get().oldRules).toBe(true);
  });

  it("keeps one person's records out of another's store", async () => {
    await device.takeIn(copyOf("j"));
    await device.recordEntries("j", [entry(1)]);
    const other = new Device(person + 1000);
    expect(await other.db.outbox.count()).toBe(0);
    expect(await other.db.jobs.count()).toBe(0);
  });
});

describe("a job kept by an older version of Ofen", () => {
  const old = { format: "ofen-job/1", name: "Old", note: "here" };
  const todays = async (document: Document) => ({ ...document, format: "ofen-job/2" });
  const kept = {
    id: "old",
    head: "r1",
    base: { revisionId: "r1", document: old },
    document: old,
    conflict: null,
    drafts: { "site.altitude_m": "4x" },
    openedAt: 1,
    pinned: true,
  };

  it("is brought to today's format with its base and its conflict, and with nothing lost", async () => {
    const conflict = { document: { ...old, note: "theirs" }, revisionId: "r2", revision: 2, author: "Tova" };
    await device.db.jobs.add({ ...kept, conflict });
    await device.upgrade("old", "ofen-job/2", todays);
    const now = await device.db.jobs.get("old");
    expect([now?.document, now?.base?.document, now?.conflict?.document].map((d) => [d?.["format"], d?.["note"]])).toEqual([
      ["ofen-job/2", "here"],
      ["ofen-job/2", "here"],
      ["ofen-job/2", "theirs"],
    ]);
    expect(now).toMatchObject({ drafts: kept.drafts, pinned: true, head: "r1" });
  });

  it("stays as it is where it is of today, where nobody can upgrade it, and where it was edited meanwhile", async () => {
    await device.db.jobs.add(kept);
    await device.upgrade("old", "ofen-job/1", () => Promise.reject(new Error("not asked")));
    await expect(device.upgrade("old", "ofen-job/2", () => Promise.reject(new Error("no signal")))).rejects.toThrow("no signal");
    expect((await device.db.jobs.get("old"))?.document).toEqual(old);
    await device.upgrade("old", "ofen-job/2", async (document) => {
      await device.db.jobs.update("old", { document: { ...old, note: "edited" } });
      return todays(document);
    });
    expect((await device.db.jobs.get("old"))?.document).toEqual({ ...old, note: "edited" });
  });
});

describe("two devices with one job", () => {
  // Both have changed the place: what only one has changed would be put together by itself.
  const theirs = { ...DOCUMENT, note: "theirs", site: { ...(DOCUMENT["site"] as Document), place: "theirs" } };
  beforeEach(async () => {
    await device.takeIn(copyOf("j"));
    server.heads.set("j", { uid: "r2", document: theirs });
    server.kept.set("r2", { kind: "revision", id: "r2", job: "j", based_on: "r1", document: theirs });
  });
  const typed = () => device.edit("j", [{ path: "site.place", value: "mine" }], Date.now() - TYPING_MS);

  it("shows the conflict, sends readings all the same, and ends with what was picked on top of theirs", async () => {
    await typed();
    await device.recordEntries("j", [entry(1)]);
    await drain();
    expect(server.kept.has("e1")).toBe(true);
    expect((await device.db.jobs.get("j"))?.conflict).toMatchObject({ author: "Tova", document: { note: "theirs" } });
    await device.settle("j", { ...theirs, site: { place: "mine" } });
    await drain();
    expect(server.heads.get("j")?.document).toMatchObject({ note: "theirs", site: { place: "mine" } });
    expect(await device.db.outbox.count()).toBe(0);
    expect((await device.db.jobs.get("j"))?.conflict).toBeNull();
  });

  it("takes theirs without a revision of its own", async () => {
    await typed();
    await drain();
    await device.settle("j", theirs);
    expect(await device.db.outbox.count()).toBe(0);
    expect(await documentOf("j")).toEqual(theirs);
  });

  it("keeps the very state a run was begun by", async () => {
    await typed();
    const run = await device.beginRun("j", "heater-1", PROCEDURE);
    await drain();
    expect(server.kept.has(run)).toBe(false);
    await device.settle("j", theirs);
    await drain();
    const begun = server.kept.get(run);
    expect(begun).toBeDefined();
    const by = begun?.kind === "run" ? server.kept.get(begun.revision_id) : undefined;
    expect(by).toMatchObject({ based_on: "r2", document: { site: { place: "mine" } } });
    expect(server.heads.get("j")?.document).toEqual(theirs);
    expect(await device.db.outbox.count()).toBe(0);
  });
});

describe("what is said of it", () => {
  it("counts by kind", () => {
    const of = (kind: WireRecord["kind"]) => ({ record: { kind } as WireRecord });
    expect(saidOf([of("revision"), of("entry"), of("entry"), of("event"), of("sign_off")])).toBe(
      "1 change, 1 commissioning record, 2 log entries and 1 sign-off",
    );
    expect(saidOf([of("entry")])).toBe("1 log entry");
  });
  it("gives the whole job as a file that can be brought in", async () => {
    await device.takeIn(copyOf("j"));
    await device.recordEntries("j", [entry(2)]);
    expect(await device.wholeJob("j")).toMatchObject({
      format: "ofen-whole-job/1",
      job: { name: "Depot" },
      runs: [],
      log: [{ value: 2 }],
    });
  });
  it("forgets a job that is gone, but nothing that waits", async () => {
    await device.takeIn(copyOf("j"));
    await device.recordEntries("j", [entry(3)]);
    expect(await device.forget("j")).toBe(false);
    await drain();
    expect(await device.forget("j")).toBe(true);
    expect(await device.db.records.count()).toBe(0);
  });
});

describe("whatever happens on the way", () => {
  /** The same luck every time. */
  const luck = (seed: number) => () => {
    seed = (seed * 1664525 + 1013904223) % 4294967296;
    return seed / 4294967296;
  };

  it.each(Array.from({ length: 12 }, (_, n) => n + 1))("ends with nothing waiting and nothing lost (%i)", async (seed) => {
    const next = luck(seed);
    const one = <T>(of: T[]): T => of[Math.floor(next() * of.length)] as T;
    const entered: string[] = [];
    let note = "";
    let copies: { copy: JobCopy; asked: number }[] = [];
    const refusing = { documents: 0, silent: 0 };
    const post = (records: WireRecord[]) => {
      if (refusing.silent-- > 0) throw SILENT;
      if (refusing.documents-- <= 0) return server.post(records);
      const refused = (r: WireRecord): OutboxResult => ({
        id: r.id,
        outcome: "refused",
        device_agrees: null,
        problem: { type: "", status: 422, title: "Cannot be used", detail: "" },
      });
      const [documents, others] = [
        records.filter((r) => r.kind === "job" || r.kind === "revision"),
        records.filter((r) => r.kind !== "job" && r.kind !== "revision"),
      ];
      return Promise.resolve(others.length > 0 ? server.post(others) : { core_version: "1", results: [] as OutboxResult[] }).then(
        (kept) => ({ ...kept, results: [...documents.map(refused), ...kept.results] }),
      );
    };
    const opened = () => new Sender(device, "1", () => Promise.resolve(true), post);
    sender = opened();
    await device.takeIn(copyOf("j"));
    server.heads.set("j", { uid: "r1", document: DOCUMENT });
    const turn = () => new Promise((done) => setTimeout(done, 4));
    const edit = async () => {
      note = `note ${entered.length} ${next()}`;
      await device.edit("j", [{ path: "note", value: note }], Date.now() - TYPING_MS);
    };
    const steps: (() => unknown)[] = [
      edit,
      edit,
      async () => {
        const made = entry(1000 + entered.length);
        entered.push(made.id);
        await device.recordEntries("j", [made]);
      },
      () => sender.wake(),
      () => sender.wake(),
      () => {
        // A colleague saves the same job in between.
        const uid = `theirs-${next()}`;
        const document = { ...(server.heads.get("j")?.document ?? DOCUMENT), site: { place: uid } };
        server.kept.set(uid, { kind: "revision", id: uid, job: "j", based_on: "", document });
        server.heads.set("j", { uid, document });
      },
      () => (refusing.documents = 1),
      () => (refusing.silent = 1 + Math.floor(next() * 3)),
      async () =>
        copies.push({
          copy: copyOf("j", structuredClone(server.heads.get("j")?.document ?? DOCUMENT), server.heads.get("j")?.uid),
          asked: await device.arrivals("j"),
        }),
      async () => {
        const slow = copies.pop();
        if (slow) await device.takeIn(slow.copy, true, slow.asked);
      },
      () => {
        // A tab closed in the middle, and the page opened anew.
        sender.stop();
        device = new Device(person);
        sender = opened();
        copies = [];
      },
      turn,
      turn,
    ];
    for (let n = 0; n < 60; n += 1) await one(steps)();
    refusing.documents = 0;
    refusing.silent = 0;
    // The person looks at what was refused or stands in two versions, and says what counts.
    for (let n = 0; n < 4; n += 1) {
      await drain();
      const job = await device.db.jobs.get("j");
      if (job?.conflict) await device.settle("j", { ...job.document });
      if ((await device.db.outbox.toArray()).some((w) => w.stuck === "refused")) await edit();
    }
    await drain();
    expect(await device.db.outbox.toArray()).toEqual([]);
    expect(
      [...server.kept.values()]
        .filter((r) => r.kind === "entry")
        .map((r) => r.id)
        .sort(),
    ).toEqual([...entered].sort());
    const last = await documentOf("j");
    if (note !== "") expect(last).toMatchObject({ note });
    if (revisions().some((r) => r.kind === "revision" && r.based_on !== ""))
      expect(server.heads.get("j")?.document).toMatchObject({ note: last?.["note"] });
  });
});
