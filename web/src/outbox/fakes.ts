// For the tests of the outbox: a job, its procedure, and a server that may be silent, deaf, repeated or late.
import { type JobCopy, type OutboxResult, Problem, type Procedure } from "../api/client";
import type { Document } from "../job/document";
import type { RecordBody, WireRecord } from "./db";

export const DOCUMENT: Document = { format: "ofen-job/1", name: "Depot", note: "", site: { place: "" } };
export const AT = "2026-01-12T06:00:00Z";
export const SILENT = new Problem({ status: 0, title: "No answer", detail: "" });

/** A server that keeps each record once, and can lose what it says. */
export class FakeServer {
  kept = new Map<string, WireRecord>();
  heads = new Map<string, { uid: string; document: Document }>();
  firsts = new Set<string>();
  posts = 0;
  before: (post: number) => void = () => undefined;
  after: (post: number) => void = () => undefined;

  post = (records: WireRecord[]) => {
    this.posts += 1;
    this.before(this.posts);
    const results = records.map((r) => this.take(structuredClone(r)));
    this.after(this.posts);
    return Promise.resolve({ core_version: "1", results });
  };

  private take(record: WireRecord): OutboxResult {
    const result = (outcome: OutboxResult["outcome"], problem: OutboxResult["problem"] = null): OutboxResult => ({
      id: record.id,
      outcome,
      device_agrees: null,
      problem,
    });
    if (this.kept.has(record.id)) return result("kept");
    if (record.kind === "entry" && record.body["value"] === 666)
      return result("refused", { type: "", status: 422, title: "Not possible", detail: "" });
    if (
      record.kind === "run" &&
      record.revision_id !== "r1" &&
      !this.kept.has(record.revision_id) &&
      !this.firsts.has(record.revision_id)
    )
      return result("waits");
    if (record.kind === "job") this.firsts.add(record.revision_id);
    if (record.kind === "revision") {
      const head = this.heads.get(record.job);
      if (head && head.uid !== record.based_on && [...this.kept.keys()].includes(head.uid))
        return result("conflict", {
          type: "",
          status: 409,
          title: "Someone saved",
          detail: "",
          theirs: { document: head.document, revision: 2, revision_id: head.uid, author: "Tova" },
        });
      this.heads.set(record.job, { uid: record.id, document: record.document });
    }
    this.kept.set(record.id, record);
    return result("kept");
  }
}

export const copyOf = (id: string, document = DOCUMENT, revision = "r1"): JobCopy => ({
  job: { id, revision: 1, revision_id: revision, saved_at: AT, author: "Tova", role: "lead", filed: false, signed: null, document },
  runs: [],
  entries: [],
  unreadable: [],
  mark: AT,
  more: false,
  epoch: "first",
  log_begins_at: null,
});
export const PROCEDURE: Procedure = {
  key: "p",
  version: 1,
  title: "P",
  purpose: "commission",
  school: "",
  unit: "heater-1",
  unit_name: "Heater",
  steps: [],
  joints: [],
  switches: [],
  way: [],
  begins_on: [],
  only_changed: null,
  of: {
    model: "",
    serial: "",
    fuel: "",
    inlet: "",
    sheet_w: null,
    position: "",
    wall: "",
    wall_m: null,
    along_m: null,
  },
  digest: "d",
};
export const entry = (n: number): RecordBody => ({
  id: `e${n}`,
  at: AT,
  kind: "air",
  where: "outside",
  value: n,
  as_typed: String(n),
});
