// Two people on one job: what they change apart is put together by itself, what both change is picked, and each is told.
import "fake-indexeddb/auto";
import { beforeEach, expect, it, vi } from "vitest";
import { Device, TYPING_MS } from "./device";
import { DOCUMENT, FakeServer, copyOf } from "./fakes";
import { Sender } from "./sender";

vi.mock("../engine/ask", () => ({ planDigest: vi.fn(() => Promise.resolve(null)) }));
vi.mock("./photos", () => ({ sendPhotos: vi.fn(() => Promise.resolve()) }));

let device: Device;
let server: FakeServer;
let sender: Sender;
let person = 7000;

beforeEach(async () => {
  person += 1;
  device = new Device(person);
  server = new FakeServer();
  sender = new Sender(device, "1", () => Promise.resolve(true), server.post);
  await device.takeIn(copyOf("j", { ...DOCUMENT, note: "first", name: "Hut" }));
});

const edit = (path: string, value: string) => device.edit("j", [{ path, value }], Date.now() - TYPING_MS);
const job = async () => {
  const kept = await device.db.jobs.get("j");
  if (!kept) throw new Error("no job");
  return kept;
};
/** Somebody else saves a document over the first one. */
function theirs(change: Record<string, string>) {
  const document = { ...DOCUMENT, note: "first", name: "Hut", ...change };
  server.kept.set("theirs", { kind: "revision", id: "theirs", job: "j", based_on: "r1", document });
  server.heads.set("j", { uid: "theirs", document });
}
async function drained() {
  sender.wake();
  await vi.waitFor(async () => {
    const rows = await device.db.outbox.toArray();
    expect(rows.every((r) => r.stuck !== null) && !sender.get().sending).toBe(true);
  });
}

it("puts together what two have changed apart, tells it, and keeps a way back", async () => {
  theirs({ note: "theirs" });
  await edit("name", "Upper hut");
  await drained();
  const now = await job();
  expect([now.conflict, now.document["name"], now.document["note"]]).toEqual([null, "Upper hut", "theirs"]);
  expect(server.heads.get("j")?.document).toMatchObject({ name: "Upper hut", note: "theirs" });
  expect(now.news).toEqual({ author: "Tova", kind: "merged", changes: [{ path: "note", before: "first", after: "theirs" }] });
  await device.newsRead("j");
  expect((await job()).news).toBeNull();
});

it("leaves to a person what both have changed", async () => {
  theirs({ note: "theirs", name: "Theirs too" });
  await edit("note", "mine");
  await drained();
  const now = await job();
  expect(now.conflict).toMatchObject({ author: "Tova" });
  expect([now.document["note"], now.news ?? null]).toEqual(["mine", null]);
});

it("tells whoever set a value that somebody else has changed it, and nothing of what they never set", async () => {
  await edit("note", "mine");
  await drained();
  const saved = server.heads.get("j");
  expect((await job()).mine).toEqual({ note: "mine" });
  await device.takeIn(copyOf("j", { ...saved?.document, note: "not yours", name: "Another" }, "r9"));
  expect((await job()).news).toEqual({
    author: "Tova",
    kind: "changed",
    changes: [{ path: "note", before: "mine", after: "not yours" }],
  });
  // Told once: the next change of it is of something that is theirs by now.
  await device.newsRead("j");
  await device.takeIn(copyOf("j", { ...saved?.document, note: "again", name: "Another" }, "r10"));
  expect((await job()).news).toBeNull();
});
