import { describe, expect, it } from "vitest";
import { type Document, at, byId, freshId, listAt, listUndone, put, steps, textAt } from "./document";

const job: Document = {
  name: "Depot",
  site: { altitude_m: 640 },
  need: { spaces: [{ id: "a", skin: [{ id: "roof", area_m2: 9 }] }] },
};

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

describe("entries by id", () => {
  const job = {
    supplies: [
      {
        id: "s",
        parts: [
          { id: "a", length_m: 1 },
          { id: "b.1", length_m: 2 },
        ],
      },
    ],
  };
  it("means the same entry whatever comes before it", () => {
    const path = byId(job, "supplies[0].parts[1].length_m");
    expect(path).toBe("supplies[#s].parts[#b.1].length_m");
    const grown = {
      supplies: [
        { id: "new", parts: [] },
        {
          id: "s",
          parts: [
            { id: "x", length_m: 9 },
            { id: "a", length_m: 1 },
            { id: "b.1", length_m: 2 },
          ],
        },
      ],
    };
    expect(at(grown, path)).toBe(2);
    expect(at(put(grown, path, 7), "supplies[1].parts[2].length_m")).toBe(7);
    expect(byId(job, "supplies[3].parts[0]")).toBe("supplies[3].parts[0]");
  });
  it("changes nothing where the entry is gone", () => {
    expect(put({ supplies: [] }, "supplies[#s].parts[#a].length_m", 7)).toEqual({ supplies: [] });
    expect(put({}, "supplies[#s].name", "x")).toEqual({});
  });
  it("takes away what stands at a path", () => {
    expect(put({ a: { b: 1, c: 2 } }, "a.b", undefined)).toEqual({ a: { c: 2 } });
  });
  it("undoes what was added and removed, and leaves what others did since", () => {
    const e = (id: string, v = 0) => ({ id, v });
    const [before, after] = [
      [e("a"), e("b")],
      [e("a"), e("c")],
    ];
    expect(listUndone([e("a", 5), e("c"), e("theirs")], before, after)).toEqual([e("a", 5), e("b"), e("theirs")]);
    expect(listUndone(3, 1, 2)).toBe(1);
    expect(listUndone(undefined, before, after)).toBe(before);
  });
});
