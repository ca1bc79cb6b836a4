// What a device does after the server was brought back from a backup: nothing it holds is lost.
import "fake-indexeddb/auto";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { type JobCopy, Problem } from "../api/client";
import { Device, TYPING_MS } from "./device";
import { AT, DOCUMENT, FakeServer, PROCEDURE, copyOf, entry } from "./fakes";
import { Sender } from "./sender";

vi.mock("../engine/ask", () => ({ planDigest: () => Promise.resolve(null) }));

let device: Device;
let server: FakeServer;
let person = 900;
const documentOf = async (id: string) => (await device.db.jobs.get(id))?.document;

beforeEach(() => {
  person += 1;
  device = new Device(person);
  server = new FakeServer();
});

describe("after the server was brought back from a backup", () => {
  const v7 = (n: number) => `0190000${n}-0000-7000-8000-000000000000`;
  const offering = (copy: () => JobCopy | null, me = "Ines") =>
    new Sender(
      device,
      "1",
      () => Promise.resolve(true),
      server.post,
      me,
      () => {
        const found = copy();
        return found ? Promise.resolve(found) : Promise.reject(new Problem({ status: 404, title: "Not found", detail: "" }));
      },
    );
  /** A job, a signed run with an event, and an entry, all known to the server as it was. */
  async function worked(): Promise<string> {
    await device.meet("first");
    const copy = copyOf("j", { ...DOCUMENT, note: "later" }, v7(5));
    copy.runs.push({
      id: "run",
      unit: "heater-1",
      begun_at: AT,
      revision_id: v7(5),
      procedure: PROCEDURE,
      events: [{ id: "event", at: AT, kind: "check" }],
      signed: { by: "Ines", at: AT, server_at: AT, seal: "" },
    });
    copy.entries.push(entry(1) as never);
    await device.takeIn(copy);
    return "j";
  }
  const kinds = () => [...server.kept.values()].map((r) => r.kind);
  /** Until every job has been offered, and what that has queued is sent or held back. */
  async function offered(who: Sender) {
    who.wake();
    await vi.waitFor(async () => {
      expect((await device.db.jobs.toArray()).some((j) => j.toOffer)).toBe(false);
      expect((await device.db.outbox.toArray()).filter((r) => r.stuck === null)).toEqual([]);
    }, 10_000);
  }

  it("offers the pictures again that the server had", async () => {
    const id = await worked();
    const photo = await device.keepPhoto(id, new ArrayBuffer(3));
    await device.db.photos.update(photo, { sent: 1 });
    await device.meet("second");
    expect(await device.db.photos.get(photo)).toMatchObject({ sent: 0 });
  });

  it("offers a job again that the server has lost, whole and in order, what waited behind it", async () => {
    const id = await worked();
    await device.recordEntries(id, [entry(2)]);
    await device.meet("second");
    expect(await device.forget(id)).toBe(false);
    await offered(offering(() => null));
    expect(kinds()).toEqual(["job", "run", "event", "sign_off", "entry", "entry"]);
    expect(server.kept.get("run")).toMatchObject({ revision_id: v7(5), offered_again: true, procedure: { digest: "d" } });
    expect(await device.db.outbox.count()).toBe(0);
  });

  it("puts its newer document on the server's older one, and offers no record the server still has", async () => {
    await worked();
    await device.meet("second");
    const older = copyOf("j", DOCUMENT, v7(3));
    older.entries.push(entry(1) as never);
    await offered(offering(() => older));
    expect(kinds()).toEqual(["revision", "run", "event", "sign_off"]);
    expect([...server.kept.values()][0]).toMatchObject({ id: v7(5), based_on: v7(3), document: { note: "later" } });
  });

  it("leaves it to a person where others have gone on from the older state", async () => {
    await worked();
    await device.meet("second");
    server.heads.set("j", { uid: v7(9), document: { ...DOCUMENT, note: "theirs" } });
    server.kept.set(v7(9), { kind: "revision", id: v7(9), job: "j", based_on: v7(3), document: DOCUMENT });
    await offered(offering(() => copyOf("j", { ...DOCUMENT, note: "theirs" }, v7(9))));
    const job = await device.db.jobs.get("j");
    expect(job).toMatchObject({ base: null, document: { note: "later" }, conflict: { document: { note: "theirs" } } });
    expect(kinds()).toContain("entry");
  });

  it("leaves a run that has not been sent yet as it was begun", async () => {
    const id = await worked();
    await device.edit(id, [{ path: "note", value: "begun by this" }], Date.now() - TYPING_MS);
    const run = await device.beginRun(id, "heater-1", PROCEDURE);
    const begunBy = (await device.db.jobs.get(id))?.head;
    await device.meet("second");
    await offered(offering(() => null));
    expect([...server.kept.values()].filter((r) => r.kind === "run").map((r) => r.id)).toEqual(["run", run]);
    expect(server.kept.get(run)).toMatchObject({ revision_id: begunBy });
    expect(server.kept.get(run)).not.toHaveProperty("offered_again");
  });

  it("does not sign for somebody else, and takes no older state in before it has offered its own", async () => {
    await worked();
    await device.takeIn({ ...copyOf("j", DOCUMENT, v7(3)), epoch: "second" });
    expect(await documentOf("j")).toMatchObject({ note: "later" });
    await offered(offering(() => null, "Tova"));
    expect(kinds()).not.toContain("sign_off");
    expect(await device.db.runs.get("run")).toMatchObject({ signed: null, signedHere: null });
  });

  it("learns of it from the refusal of a batch, and sends that batch after what was lost", async () => {
    const id = await worked();
    await device.recordEntries(id, [entry(3)]);
    const { post } = server;
    server.post = (records, epoch?: string | null) =>
      epoch === "second"
        ? post(records)
        : Promise.reject(new Problem({ status: 409, title: "Brought back", detail: "", epoch: "second" }));
    await offered(offering(() => null));
    expect(kinds()).toEqual(["job", "run", "event", "sign_off", "entry", "entry"]);
  });
});
