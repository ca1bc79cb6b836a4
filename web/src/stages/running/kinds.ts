// The kinds of log entry as the core declares them: what each asks, how it is called, what it speaks of. No React in here.
import { t } from "@lingui/core/macro";
import type { Entry, LogKind } from "../../api/client";
import { type Spec, namesAt, specAt } from "../../job/schema";

/** Fields that every entry has; the rest is a kind's own. */
const COMMON = new Set(["id", "at", "subject", "visit", "source", "as_typed", "remark", "corrects", "batch", "instrument", "by"]);

/** The fields that are a kind's own, in the order of its declaration. */
export function fieldsOf(kind: LogKind): { name: string; spec: Spec }[] {
  return namesAt(kind.declared, "", kind.kind)
    .filter((name) => !COMMON.has(name))
    .flatMap((name) => {
      const spec = specAt(kind.declared, name);
      return spec ? [{ name, spec }] : [];
    });
}

/** The quantity kind of what is read, null for a kind that has no value. */
export const quantityOf = (kind: LogKind | undefined): Spec | null =>
  kind ? (fieldsOf(kind).find((f) => f.name === "value")?.spec ?? null) : null;

/** What an entry is called, "Air out of the heater", "Vessel 2 on the scale", in the words of the core. */
export function labelOf(entry: Record<string, unknown>, kind: LogKind | undefined): string {
  if (!kind) return t`Older entry`;
  const { labels, title } = kind;
  const { test, where, vessel } = entry;
  if (typeof test === "string" && labels["test"])
    return labels[test] ?? labels["test"].replace("{test}", test.replace(/^test_/, "").replaceAll("_", " "));
  if (typeof where === "string" && where !== "" && labels[where]) return labels[where];
  return typeof vessel === "number" && labels["vessel"] ? labels["vessel"].replace("{vessel}", String(vessel)) : title;
}

/** What an entry says in words, where it has no number. */
export function wordsOf(entry: Entry, kind: LogKind | undefined): string {
  if (!kind || !("look" in entry)) return "";
  return (
    fieldsOf(kind)
      .find((f) => f.name === "look")
      ?.spec.options?.find((o) => o.value === entry.look)?.reads ?? ""
  );
}
