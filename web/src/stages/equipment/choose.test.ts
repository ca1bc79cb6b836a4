import { describe, expect, it } from "vitest";
import { at, listAt, put, textAt } from "../../job/document";
import { emptyJob } from "../../jobs/newJob";
import { withIds } from "../../job/document";
import { choose, chooseForValve, chooseSets } from "./choose";
import { withSheet } from "./Sheets";

const NEW_JOB = emptyJob("us");

const after = (count: number) =>
  choose(NEW_JOB, [{ model: "tarn-35-indirect", count, fuel: "propane" }]).reduce((d, c) => put(d, c.path, c.value), NEW_JOB);

describe("taking heaters into a job", () => {
  it("gives each heater an inlet where the first one hung", () => {
    const job = after(3);
    const ends = listAt(job, "supplies[0].parts").filter((p) => textAt(p, "kind") === "appliance");
    expect(ends.map((p) => textAt(p, "machine"))).toEqual(["heater-1", "heater-2", "heater-3"]);
    expect(new Set(ends.map((p) => textAt(p, "after")))).toEqual(new Set(["connector"]));
    expect(new Set(ends.map((p) => textAt(p, "id"))).size).toBe(3);
    expect(at(job, "equipment.heaters[2].model")).toBe("tarn-35-indirect");
  });
  it("takes away the inlets of heaters that are gone", () => {
    const fewer = choose(after(3), [{ model: "tarn-60-indirect", count: 1, fuel: "propane" }]).reduce(
      (d, c) => put(d, c.path, c.value),
      after(3),
    );
    expect(listAt(fewer, "supplies[0].parts").filter((p) => textAt(p, "kind") === "appliance")).toHaveLength(1);
  });
  it("gives no inlet to a heater whose fuel comes by no planned path", () => {
    const job = choose(NEW_JOB, [{ model: "fell-34-diesel", count: 2, fuel: "diesel" }]).reduce(
      (d, c) => put(d, c.path, c.value),
      NEW_JOB,
    );
    expect(listAt(job, "equipment.heaters").map((h) => textAt(h, "fuel"))).toEqual(["diesel", "diesel"]);
    expect(listAt(job, "supplies[0].parts").filter((p) => textAt(p, "kind") === "appliance")).toEqual([]);
  });
  it("takes a pair as one choice", () => {
    const pair = [
      { model: "sill-23-direct", count: 1, fuel: "propane" },
      { model: "tarn-35-indirect", count: 2, fuel: "propane" },
    ];
    const job = choose(NEW_JOB, pair).reduce((d, c) => put(d, c.path, c.value), NEW_JOB);
    expect(listAt(job, "equipment.heaters").map((h) => textAt(h, "model"))).toEqual([
      "sill-23-direct",
      "tarn-35-indirect",
      "tarn-35-indirect",
    ]);
    expect(at(job, "equipment.heaters[0].fuel")).toBeUndefined();
  });
  it("hangs heaters at a valve and leaves those of the spaces and of other valves", () => {
    const hung = chooseForValve(after(2), "valve-1", { model: "slate-18-catalytic", count: 1, fuel: "" }).reduce(
      (d, c) => put(d, c.path, c.value),
      after(2),
    );
    const again = chooseForValve(hung, "valve-1", { model: "slate-09-catalytic", count: 2, fuel: "" }).reduce(
      (d, c) => put(d, c.path, c.value),
      hung,
    );
    expect(listAt(again, "equipment.heaters").map((h) => textAt(h, "model"))).toEqual([
      "tarn-35-indirect",
      "tarn-35-indirect",
      "slate-09-catalytic",
      "slate-09-catalytic",
    ]);
    expect(new Set(listAt(again, "equipment.heaters").map((h) => textAt(h, "id"))).size).toBe(4);
    const chosen = choose(again, [{ model: "tarn-60-indirect", count: 1, fuel: "propane" }]).reduce(
      (d, c) => put(d, c.path, c.value),
      again,
    );
    expect(listAt(chosen, "equipment.heaters").map((h) => textAt(h, "serves"))).toEqual(["", "valve-1", "valve-1"]);
  });
  it("puts one set for all or two that share the loads", () => {
    const sets = chooseSets(NEW_JOB, [
      { model: "rook-3-diesel", fuel: "diesel", feeds: "essential" },
      { model: "linnet-4-lp", fuel: "petrol", feeds: "others" },
    ]).reduce((d, c) => put(d, c.path, c.value), NEW_JOB);
    expect(listAt(sets, "equipment.generators")).toEqual([
      { id: "generator-1", model: "rook-3-diesel", fuel: "diesel", feeds: "essential" },
      { id: "generator-2", model: "linnet-4-lp", fuel: "petrol", feeds: "others" },
    ]);
  });
});

describe("loads and sheets", () => {
  it("gives each added load an id of its own", () => {
    expect(withIds("load", [{ id: "load-2", name: "a" }], [{ name: "b" }, { name: "c" }]).map((l) => l["id"])).toEqual([
      "load-2",
      "load-1",
      "load-3",
    ]);
  });
  it("lets a sheet take the place of one of the same id, without its format", () => {
    const sheets = withSheet([{ id: "own-1", name: "old" }, { id: "own-2" }], { format: "ofen-sheet/1", id: "own-1", name: "new" });
    expect(sheets).toEqual([{ id: "own-2" }, { id: "own-1", name: "new" }]);
  });
});
