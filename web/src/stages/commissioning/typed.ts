// What is typed at a reading: its text and the unit it is meant in, both kept until it is recorded.
import { type Quantities, useQuantities } from "../../app/context";
import { useDraft, useJobPart } from "../../job/context";

const HAS_UNIT = /[a-z"°%]/i;

export interface Typed {
  text: string;
  setText: (text: string) => void;
  unit: string;
  setUnit: (unit: string) => void;
  kind: string;
  /** As it goes on record: with its unit. */
  typed: string;
  value: number | null;
  error: string;
  clear: () => void;
}

function meant(q: Quantities, kind: string, text: string, unit: string) {
  const typed = HAS_UNIT.test(text) || unit === "" ? text.trim() : `${text.trim()} ${unit}`;
  if (text.trim() === "") return { typed: "", value: null, error: "" };
  const read = q.read(typed, kind);
  return "value" in read ? { typed, value: read.value, error: "" } : { typed, value: null, error: read.error };
}

/** One reading being typed, by a key of its own. */
export function useTyped(key: string, kind: string): Typed {
  const q = useQuantities();
  const [text, setText] = useDraft(key);
  const [own, setUnit] = useDraft(`${key}.unit`);
  const unit = own || q.kind(kind)[q.system];
  const clear = () => setText("");
  return { text, setText, unit, setUnit, kind, clear, ...meant(q, kind, text, unit) };
}

/** What several readings come to as they stand, by their keys. */
export function useAllTyped(readings: { key: string; kind: string }[]): (number | null)[] {
  const q = useQuantities();
  const drafts = useJobPart((s) => s.drafts);
  return readings.map(({ key, kind }) => meant(q, kind, drafts[key] ?? "", drafts[`${key}.unit`] ?? q.kind(kind)[q.system]).value);
}
