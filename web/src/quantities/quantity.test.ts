// The same cases as the core's own tests, so that both read and write alike.
import { execFileSync } from "node:child_process";
import { readFileSync } from "node:fs";
import { describe, expect, it } from "vitest";
import type { QuantityKind } from "../api/client";
import { type Kinds, type System, parse, shown, unitOf } from "./quantity";

const ROOT = `${process.cwd()}/../`;
const table = JSON.parse(
  execFileSync(
    `${ROOT}.venv/bin/python`,
    [
      "-c",
      "import json; from ofen.document import write; from ofen.figures.quantities import KINDS; print(json.dumps(write(list(KINDS.values()))))",
    ],
    {
      env: { PYTHONPATH: `${ROOT}core` },
      encoding: "utf8",
    },
  ),
) as QuantityKind[];
const kinds: Kinds = Object.fromEntries(table.map((k) => [k.name, k]));

interface Case {
  text: string;
  kind: string;
  system: System;
  value: number;
}
const cases = JSON.parse(readFileSync(`${ROOT}tests/core/quantity_cases.json`, "utf8")) as {
  read: Case[];
  refused: Case[];
  shown: Case[];
};

const kindOf = (name: string): QuantityKind => {
  const found = kinds[name];
  if (!found) throw new Error(name);
  return found;
};

describe("reading and writing quantities", () => {
  it.each(cases.read)("reads $text as the core does", ({ text, kind, system, value }) => {
    const read = parse(text, kindOf(kind), system);
    expect("value" in read ? read.value / value : read).toBeCloseTo(1, 7);
  });
  it.each(cases.refused)("refuses $text and says what is allowed", ({ text, kind, system }) => {
    expect(parse(text, kindOf(kind), system)).toHaveProperty("error");
  });
  it.each(cases.shown)("writes $text as the core does", ({ text, kind, system, value }) => {
    expect(shown(value, kindOf(kind), system)).toBe(text);
  });
  it("finds every unit by its own symbol and aliases", () => {
    for (const kind of table)
      for (const unit of kind.units)
        for (const name of [unit.symbol, ...unit.aliases]) expect(unitOf(kind, name), `${kind.name} ${name}`).toBe(unit);
  });
});
