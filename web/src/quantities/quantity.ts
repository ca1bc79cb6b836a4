// Reading and writing quantities; kinds and factors come from the core through the API, and one file of cases holds
// this module and the core to the same answers.
import { t } from "@lingui/core/macro";
import type { QuantityKind } from "../api/client";

export type System = "metric" | "us";
export type Kinds = Record<string, QuantityKind>;

const VULGAR: Record<string, string> = { "½": "1/2", "¼": "1/4", "¾": "3/4", "⅜": "3/8", "⅝": "5/8", "⅛": "1/8", "⅞": "7/8" };

const SPACED = /^\d{1,3}(?: \d{3})+(?:[.,]\d+)?(?![\d.,/])/;
const AND_MORE = /^\s*([^\d\s+−-][^\d+−-]*?)\s*(\d.*)$/;
const MOST_TYPED = 60;
// Seconds since 1970 by the clock of the place from here on; the first of 1970 was a Thursday.
export const DATED_S = 366 * 86_400;
const MINUTES_A_DAY = 1440;
const WEEKDAYS = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

const plain = (symbol: string) =>
  symbol
    .trim()
    .toLowerCase()
    .replaceAll("²", "2")
    .replaceAll("³", "3")
    .replace(/[·°\s.]/g, "");

/** The unit of a kind by symbol or alias. */
export function unitOf(kind: QuantityKind, symbol: string) {
  const wanted = plain(symbol);
  return kind.units.find((u) => plain(u.symbol) === wanted || u.aliases.some((a) => plain(a) === wanted));
}

const round12 = (value: number) => Number(value.toPrecision(12));

function decimal(digits: string): number {
  if (/^[1-9]\d{0,2}(,\d{3})+(\.\d*)?$/.test(digits)) return Number(digits.replaceAll(",", ""));
  if (digits.split(",").length === 2 && !digits.includes(".")) return Number(digits.replace(",", "."));
  return Number(digits);
}

function numberAndRest(text: string): { number: number; rest: string } | null {
  const sign = text.startsWith("-") ? -1 : 1;
  const body = text.replace(/^[-+]/, "").trimStart();
  const mixed = /^(\d+)[\s-]+(\d+)\s*\/\s*(\d+)/.exec(body);
  const simple = /^(\d+)\s*\/\s*(\d+)/.exec(body);
  if (mixed)
    return Number(mixed[3]) === 0
      ? null
      : { number: sign * (Number(mixed[1]) + Number(mixed[2]) / Number(mixed[3])), rest: body.slice(mixed[0].length) };
  if (simple)
    return Number(simple[2]) === 0
      ? null
      : { number: (sign * Number(simple[1])) / Number(simple[2]), rest: body.slice(simple[0].length) };
  const found = SPACED.exec(body) ?? /^[\d.,]*\d[\d.,]*/.exec(body);
  if (!found) return null;
  const number = decimal(found[0].replaceAll(" ", ""));
  return Number.isFinite(number) ? { number: sign * number, rest: body.slice(found[0].length) } : null;
}

/** The SI value of what a person typed, or the words that say what is allowed. */
export function parse(text: string, kind: QuantityKind, system: System): { value: number } | { error: string } {
  let cleaned = text
    .trim()
    .replace(/^[−–—‐‑]/, "-")
    .replace(/[\u00a0\u2007\u2009\u202f]/g, " ");
  for (const [glyph, fraction] of Object.entries(VULGAR))
    cleaned = cleaned.replace(new RegExp(`(\\d)?${glyph}`, "g"), (_, whole: string | undefined) =>
      whole ? `${whole} ${fraction}` : fraction,
    );
  const hour = kind.name === "clock" ? /^(\d{1,2}):([0-5]\d)$/.exec(cleaned) : null;
  if (hour) return { value: Number(hour[1]) * 3600 + Number(hour[2]) * 60 };
  const symbols = kind.units
    .map((u) => u.symbol)
    .filter(Boolean)
    .join(", ");
  const error = symbols ? t`Enter a number with one of ${symbols}.` : t`Enter a plain number.`;
  const value = cleaned.length > MOST_TYPED ? null : valueOf(kind, cleaned, kind[system]);
  return value === null ? { error } : { value: round12(value) };
}

/** A number with its unit, and smaller ones behind it ("59 ft 1 in"); null where it is no such thing. */
function valueOf(kind: QuantityKind, text: string, meant: string | null, below = Infinity): number | null {
  const found = numberAndRest(text);
  if (!found) return null;
  const symbol = found.rest.trim() || meant;
  const unit = symbol === null ? undefined : unitOf(kind, symbol);
  if (unit && unit.factor < below) return found.number * unit.factor + unit.offset;
  const more = AND_MORE.exec(found.rest);
  const larger = more?.[1] ? unitOf(kind, more[1]) : undefined;
  if (!more?.[2] || !larger || larger.offset !== 0 || larger.factor >= below) return null;
  const smaller = valueOf(kind, more[2], null, larger.factor);
  return smaller === null ? null : found.number * larger.factor + (text.startsWith("-") ? -smaller : smaller);
}

const withThousands = (text: string) => text.replace(/^(-?\d+)/, (whole) => whole.replace(/\B(?=(\d{3})+$)/g, ","));

/** A number at so many significant figures, thousands marked. */
export function significant(number: number, mostDecimals: number, figures = 3): string {
  const short = Number(number.toPrecision(figures));
  const size = Math.abs(short);
  const decimals = size >= 1 ? Math.max(0, Math.min(mostDecimals, figures - String(Math.trunc(size)).length)) : mostDecimals;
  let text = short.toFixed(decimals);
  if (text.includes(".")) text = text.replace(/0+$/, "").replace(/\.$/, "");
  return (Number(text) === 0 ? "0" : withThousands(text)).replace("-", "−");
}

/** An hour of the day, with its weekday where it is one of a day that is known. */
export function hourOf(value: number): string {
  const minutes = Math.round(value / 60);
  const hour = value > DATED_S ? minutes % MINUTES_A_DAY : minutes;
  const text = [Math.floor(hour / 60), hour % 60].map((n) => String(n).padStart(2, "0")).join(":");
  return value > DATED_S ? `${WEEKDAYS[(Math.floor(minutes / MINUTES_A_DAY) + 3) % WEEKDAYS.length] ?? ""} ${text}` : text;
}

/** A value in the person's unit, number and unit apart. */
export function inUnits(value: number, kind: QuantityKind, system: System, figures = 3): { number: string; unit: string } {
  if (kind.name === "clock") {
    return { number: hourOf(value), unit: "" };
  }
  const unit = unitOf(kind, kind[system]);
  if (!unit) return { number: String(value), unit: "" };
  const number = round12((value - unit.offset) / unit.factor);
  return { number: significant(number, figures > 3 ? 6 : kind.most_decimals, figures), unit: unit.symbol };
}

/** A value in the person's unit as one text. */
export function shown(value: number, kind: QuantityKind, system: System, figures = 3): string {
  const { number, unit } = inUnits(value, kind, system, figures);
  return unit ? `${number} ${unit}` : number;
}

/** A value as it stands in a field: as it was typed where it is exact in this unit, else at four figures; the exact one is kept. */
export function fieldText(value: number, kind: QuantityKind, system: System): string {
  const unit = unitOf(kind, kind[system]);
  const number = unit ? (value - unit.offset) / unit.factor : value;
  const isExact = Math.abs(Number(number.toPrecision(6)) - number) <= 1e-9 * Math.abs(number);
  return shown(value, kind, system, isExact ? 6 : 4);
}
