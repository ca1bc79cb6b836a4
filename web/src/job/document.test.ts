import { describe, expect, it } from "vitest";
import { type Document, at, freshId, listAt, put, steps, textAt } from "./document";

const job: Document = { name: "Depot", site: { altitude_m: 640 }, need: { spaces: [{ id: "a", skin: [{ id: "roof", area_m2: 9 }] }] } };

describe("a job document by path", () => {
  it("splits a path into keys and places", () => {
    expect(steps("need.spaces[0].skin[12].area_m2")).toEqual(["need", "spaces", 0, "skin", 12, "area_m2"]);
  });
  it("finds what is there and says undefined where nothing is", () => {
    expect(at(job, "need.spaces[0].skin[0].area_m2")).toBe(9);
    expect(at(job, "need.spaces[3].skin[0]")).toBeUndefined();
    expect(at(job, "name.length")).toBeUndefined();
  });
  it("puts a value without touching what was there, and makes the way to it", () => {
    const changed = put(put(job, "need.spaces[0].skin[0].area_m2", 10), "siting.cord.length_m", 4);
    expect(at(changed, "need.spaces[0].skin[0].area_m2")).toBe(10);
    expect(at(changed, "siting.cord.length_m")).toBe(4);
    expect(at(job, "need.spaces[0].skin[0].area_m2")).toBe(9);
    expect(changed["site"]).toBe(job["site"]);
  });
  it("lists entries and texts, empty where there are none", () => {
    expect(listAt(job, "need.spaces").map((s) => textAt(s, "id"))).toEqual(["a"]);
    expect(listAt(job, "supplies[0].parts")).toEqual([]);
    expect(textAt(job, "site.altitude_m")).toBe("");
  });
  it("makes an id that is not taken", () => {
    expect(freshId("line", ["line-1", "line-3"])).toBe("line-2");
  });
});
