import { describe, expect, it } from "vitest";
import type { Instrument, InstrumentKind } from "../api/client";
import { sourcesFor, usedAt } from "./shelf";

const KINDS: InstrumentKind[] = [
  { key: "manometer", name: "Manometer", reads: ["gas_pressure"], checks: [], calibration_months: 12, error_fraction: 0.01 },
  { key: "multimeter", name: "Multimeter", reads: ["voltage"], checks: [], calibration_months: 12, error_fraction: 0.02 },
];

function instrument(key: string, kind: string, channels: [string, string][] = [], error: number | null = null): Instrument {
  const used = {
    id: key,
    name: key,
    kind,
    serial: "",
    calibrated_on: null,
    due_on: "2027-01-01",
    zeroed_at: null,
    bumped_at: null,
    set_at: null,
    error: null,
    taken: false,
    age_s: null,
  };
  const sheet: Instrument["sheet"] = {
    id: key,
    name: key,
    kind,
    serial: "",
    calibrated_on: null,
    calibration_months: null,
    error_fraction: error,
    emissivity: null,
    link: channels.length > 0 ? "line_tcp" : "none",
    address: "",
    unit_id: 1,
    channels: channels.map(([id, quantity]) => ({
      id,
      name: id,
      quantity,
      unit: "mbar",
      low: 0,
      high: 100,
      resolution: 0.01,
      register_at: null,
      words: "f32",
      scale: 1,
    })),
  };
  return { key, sheet, used, overdue: [], trials: [], by: "" };
}

describe("what a quantity can be read by", () => {
  const shelf = [
    instrument("m1", "manometer"),
    instrument("mano-heater-2", "manometer", [["P1", "gas_pressure"]]),
    instrument("mano-heater-1", "manometer", [
      ["P1", "gas_pressure"],
      ["P2", "gas_pressure"],
    ]),
    instrument("volts", "multimeter"),
  ];

  it("is each value that comes by itself and each instrument it is typed off, those by the machine first", () => {
    expect(sourcesFor(shelf, KINDS, "gas_pressure", "heater-1").map((s) => s.key)).toEqual([
      "mano-heater-1/P1",
      "mano-heater-1/P2",
      "m1",
      "mano-heater-2/P1",
    ]);
  });
  it("leaves out what reads something else", () => {
    expect(sourcesFor(shelf, KINDS, "voltage", "heater-1").map((s) => s.key)).toEqual(["volts"]);
    expect(sourcesFor(shelf, KINDS, "mass", "heater-1")).toEqual([]);
  });
  it("is typed where a connected one gives no such value", () => {
    const [source] = sourcesFor([instrument("m", "manometer", [["T1", "temperature"]])], KINDS, "gas_pressure", "x");
    expect(source?.channel).toBeNull();
  });
});

describe("an instrument as it goes on record", () => {
  it("has its error at this value: its own share, else its kind's", () => {
    expect(usedAt(instrument("m", "manometer"), KINDS, 2700, true, 0.1)).toMatchObject({
      error: 27,
      taken: true,
      age_s: 0.1,
      due_on: "2027-01-01",
    });
    expect(usedAt(instrument("m", "manometer", [], 0.005), KINDS, -200, false, 0).error).toBe(1);
    expect(usedAt(instrument("m", "rod"), KINDS, 1, false, 0).error).toBeNull();
  });
});
