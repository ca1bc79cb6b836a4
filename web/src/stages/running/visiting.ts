// What is typed at a visit, held against what was read last. No React in here.
import { t } from "@lingui/core/macro";
import type { VisitField } from "../../api/client";
import { type Quantities, moment } from "../../app/context";
import { nowMs, stamp } from "../../outbox/time";

export interface Answer {
  /** In SI, or the look; null while nothing usable is there. */
  value: number | string | null;
  /** As it stands on its row. */
  shown: string;
  /** As it goes on record. */
  typed: string;
  error: string;
}

const HAS_UNIT = /[a-z"°%]/i;
const NOTHING: Answer = { value: null, shown: "", typed: "", error: "" };

/** What each field comes to as it is typed. */
export function answersOf(fields: VisitField[], textOf: (field: VisitField) => string, q: Quantities): Answer[] {
  return fields.map((f) => {
    const text = textOf(f).trim();
    if (text === "" || text === "-") return NOTHING;
    if (f.looks.length > 0) {
      const look = f.looks.find((o) => o.value === text);
      return look ? { value: look.value, shown: look.reads, typed: "", error: "" } : NOTHING;
    }
    const unit = q.split(0, f.kind).unit;
    const typed = HAS_UNIT.test(text) || unit === "" ? text : `${text} ${unit}`;
    const read = q.read(typed, f.kind);
    return "value" in read
      ? { value: read.value, shown: q.show(read.value, f.kind, 4), typed, error: "" }
      : { ...NOTHING, error: read.error };
  });
}

/** The question a reading is asked that is not plausible, "" where it is: "61 °C on Mon 06:10, 16 now?". */
export function implausible(field: VisitField, answer: Answer, q: Quantities): string {
  const { value } = answer;
  if (typeof value !== "number" || answer.error) return "";
  const low = field.least !== null && value < field.least;
  const high = field.most !== null && value > field.most;
  if (!low && !high) return "";
  const last =
    typeof field.last === "number" && field.last_s !== null
      ? t`${q.show(field.last, field.kind, 4)} on ${moment(field.last_s, "short")}, `
      : "";
  const why =
    high && field.body["kind"] === "weight"
      ? t` Was it changed or filled? Then log that too.`
      : field.body["kind"] === "meter" && low
        ? t` Was the meter changed? Then log that too.`
        : "";
  return t`${last}${q.show(value, field.kind, 4)} now?${why}`;
}

/** What was read last and what is expected, in words. */
export function lastWords(field: VisitField, q: Quantities): string {
  if (field.last === null || field.last_s === null) return t`not read yet`;
  const when = moment(field.last_s, "short");
  if (typeof field.last === "string") return `${field.looks.find((o) => o.value === field.last)?.reads ?? field.last} · ${when}`;
  const expected =
    field.expected !== null && field.expected !== field.last ? t`, about ${q.show(field.expected, field.kind, 3)} expected` : "";
  return `${q.show(field.last, field.kind, 4)} · ${when}${expected}`;
}

/** What stands in the field after a press of + or −: from what is typed, else from what is expected, else from the last. */
export function stepped(field: VisitField, text: string, sign: number, q: Quantities): string {
  const read = text.trim() === "" ? null : q.read(text, field.kind);
  const from = read && "value" in read ? read.value : (field.expected ?? (typeof field.last === "number" ? field.last : 0));
  const unit = q.split(0, field.kind).unit;
  return q
    .field(from + sign * field.step, field.kind)
    .replace(unit, "")
    .trim();
}

const AHEAD_MS = 5 * 60_000;

/** The moment that was typed, now where nothing was; or what is wrong with it. */
export function momentOf(when: string): { at: string; clock_at?: string } | { error: string } {
  if (when === "") return stamp();
  const found = new Date(when);
  if (Number.isNaN(found.getTime()) || found.getFullYear() < 2000) return { error: t`Enter a date and time, such as yesterday’s.` };
  if (found.getTime() > nowMs() + AHEAD_MS)
    return { error: t`This time is in the future. Enter the time when you took the reading.` };
  return { at: found.toISOString() };
}
