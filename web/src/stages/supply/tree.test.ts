import { describe, expect, it } from "vitest";
import { type Document, textAt } from "../../job/document";
import { rows, withAfter, without } from "./tree";

const part = (id: string, after: string): Document => ({ kind: "line", id, after });
const shape = (parts: Document[]) => rows(parts).map((r) => `${"·".repeat(r.depth)}${textAt(r.part, "id")}`);

describe("the parts of the fuel path as an indented list", () => {
  it("keeps a run at its margin and takes each branch one step in, branch after branch", () => {
    expect(shape([part("a", ""), part("b", "a"), part("x", "b"), part("y", "b"), part("x2", "x"), part("y2", "y")])).toEqual([
      "a",
      "b",
      "·x",
      "·x2",
      "·y",
      "·y2",
    ]);
  });

  it("puts what hangs on nothing or on itself last, each part once", () => {
    expect(shape([part("lost", "gone"), part("a", ""), part("r", "s"), part("s", "r"), part("own", "own")])).toEqual([
      "a",
      "lost",
      "r",
      "s",
      "own",
    ]);
    expect(shape([])).toEqual([]);
  });

  it("closes the gap where a part is taken out", () => {
    const parts = [part("a", ""), part("b", "a"), part("c", "b")];
    expect(without(parts, parts[1] as Document)).toEqual([part("a", ""), part("c", "a")]);
  });

  it("sets a new part into the run, or beside what follows as a branch", () => {
    const parts = [part("a", ""), part("b", "a"), part("c", "a")];
    const made: Document = { kind: "filter", id: "f" };
    expect(withAfter(parts, "a", made, false).map((p) => [p["id"], p["after"]])).toEqual([
      ["a", ""],
      ["f", "a"],
      ["b", "f"],
      ["c", "f"],
    ]);
    expect(withAfter(parts, "a", made, true).map((p) => [p["id"], p["after"]])).toEqual([
      ["a", ""],
      ["f", "a"],
      ["b", "a"],
      ["c", "a"],
    ]);
    expect(shape(withAfter([], "", made, true))).toEqual(["f"]);
  });
});
