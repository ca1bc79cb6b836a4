import { describe, expect, it } from "vitest";
import { at, listAt, put, textAt } from "../../job/document";
import { NEW_JOB } from "../../app/newJob";
import { choose } from "./choose";

const after = (count: number) => choose(NEW_JOB, [{ model: "tarn-35-indirect", count, fuel: "propane" }]).reduce((d, c) => put(d, c.path, c.value), NEW_JOB);

describe("taking heaters into a job", () => {
  it("gives each heater an inlet where the first one hung", () => {
    const job = after(3);
    const ends = listAt(job, "supply.parts").filter((p) => textAt(p, "kind") === "appliance");
    expect(ends.map((p) => textAt(p, "heater"))).toEqual(["heater-1", "heater-2", "heater-3"]);
    expect(new Set(ends.map((p) => textAt(p, "after")))).toEqual(new Set(["connector"]));
    expect(new Set(ends.map((p) => textAt(p, "id"))).size).toBe(3);
    expect(at(job, "equipment.heaters[2].model")).toBe("tarn-35-indirect");
  });
  it("takes away the inlets of heaters that are gone", () => {
    const fewer = choose(after(3), [{ model: "tarn-60-indirect", count: 1, fuel: "propane" }]).reduce((d, c) => put(d, c.path, c.value), after(3));
    expect(listAt(fewer, "supply.parts").filter((p) => textAt(p, "kind") === "appliance")).toHaveLength(1);
  });
});
