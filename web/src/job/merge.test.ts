import { describe, expect, it } from "vitest";
import type { Document } from "./document";
import { compare, differences, merged } from "./merge";

const base: Document = {
  name: "Depot",
  note: "",
  site: { altitude_m: 640, place: "lower" },
  parts: [
    { id: "a", length_m: 1 },
    { id: "b", length_m: 2 },
  ],
};
const mine: Document = {
  ...base,
  note: "mine",
  site: { altitude_m: 650, place: "lower" },
  parts: [
    { id: "a", length_m: 5 },
    { id: "b", length_m: 2 },
  ],
};
const theirs: Document = { ...base, site: { altitude_m: 660, place: "upper" } };

describe("two versions of one job", () => {
  it("differ leaf by leaf, and a list with other entries as a whole", () => {
    expect(differences(mine, theirs)).toEqual(["note", "site.altitude_m", "site.place", "parts[0].length_m"]);
    expect(differences(mine, { ...mine, parts: [{ id: "b", length_m: 2 }] })).toEqual(["parts"]);
    expect(differences(mine, mine)).toEqual([]);
    expect(differences({ a: null }, {})).toEqual([]);
  });
  it("are told apart by who changed what since the state both started from", () => {
    expect(Object.fromEntries(compare(base, mine, theirs).map((d) => [d.path, d.by]))).toEqual({
      note: "mine",
      "site.altitude_m": "both",
      "site.place": "theirs",
      "parts[0].length_m": "mine",
    });
    expect(new Set(compare(null, mine, theirs).map((d) => d.by))).toEqual(new Set(["both"]));
  });
  it("are merged as picked, field by field", () => {
    const both = merged(mine, theirs, {
      note: "mine",
      "site.altitude_m": "theirs",
      "site.place": "theirs",
      "parts[0].length_m": "mine",
    });
    expect(both).toEqual({
      name: "Depot",
      note: "mine",
      site: { altitude_m: 660, place: "upper" },
      parts: [
        { id: "a", length_m: 5 },
        { id: "b", length_m: 2 },
      ],
    });
    expect(theirs["note"]).toBe("");
  });
});
