import { expect, test } from "vitest";
import { GLOSSARY as known } from "./glossary";
import { glossaryOf, pictureAt, readGuide, readOne, search, tradeWordIn } from "./guide";

const STAGES = ["need", "equipment", "supply", "siting", "commissioning", "running", "handover"];

test("each stage has a page that says what it is for, what is needed and how to read it, with its own picture", async () => {
  for (const stage of STAGES) {
    const page = await readOne(stage);
    expect(page?.text, stage).toContain("## What this is for");
    expect(page?.text, stage).toContain("## What you need");
    expect(page?.text, stage).toContain("## How to read it");
    const picture = /!\[[^\]]+\]\(([^)]+)\)/.exec(page?.text ?? "")?.[1] ?? "";
    expect(picture, stage).toBe(`../screenshots/${stage}.png`);
    expect(pictureAt(picture), stage).not.toBe("");
  }
});

test("the guide begins with its index, and every link in it leads to a page there is", async () => {
  const guide = await readGuide();
  expect(guide.map((p) => p.key)).toEqual(["index", "at-a-desk", "at-the-unit", "lead", "owner", ...STAGES]);
  const there = new Set(guide.map((p) => `${p.key}.md`));
  for (const page of guide) {
    for (const link of page.text.matchAll(/\]\(([^)]+\.md)\)/g)) expect(there, page.key).toContain(link[1]);
    for (const picture of page.text.matchAll(/\]\(([^)]+\.png)\)/g)) expect(pictureAt(picture[1] ?? "")).not.toBe("");
  }
});

test("what is looked for is found in every page that has all the words, and nothing for no words", async () => {
  const guide = await readGuide();
  expect(search(guide, "frost forms").map((f) => f.page.key)).toEqual(["supply"]);
  expect(search(guide, "  ")).toEqual([]);
  expect(search(guide, "zeppelin")).toEqual([]);
});

test("the glossary is the first table of the docs, and the longest word in a label is found", () => {
  expect(known.length).toBeGreaterThan(30);
  expect(tradeWordIn("Standing pressure at the inlet", known)?.word).toBe("Standing pressure");
  expect(tradeWordIn("Air changes, an hour", known)?.means).toContain("replaced");
  expect(tradeWordIn("Length", known)).toBeNull();
  expect(tradeWordIn("Colour", glossaryOf("| word | what it means |\n|---|---|\n| CO | A gas. |\n"))).toBeNull();
});
