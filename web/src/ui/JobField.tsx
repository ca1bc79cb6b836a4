// One value of the job document with its label, read and written in the person's units, its error beside it.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Field, Input, Label, Select } from "@headlessui/react";
import { memo, useState } from "react";
import { type Quantities, useQuantities, useSurroundings } from "../app/context";
import type { Plan } from "../api/client";
import { useAssumed, useJobPart, useJobStore } from "../job/context";
import { TradeWords } from "../help/TradeWords";
import { type Json, at } from "../job/document";
import { type Spec, specAt } from "../job/schema";

interface JobFieldProps {
  /** Where the value stands in the job document. */
  path: string;
  /** Shown instead of the schema's label. */
  label?: string;
  /** "row": label at the left; "stacked": small above; "bare": for ears only, a row head shows it. */
  layout?: "row" | "stacked" | "bare";
  /** Choices that come from the catalogue rather than the schema. */
  options?: { value: string; reads: string }[];
  /** Which kind of part this is, in a mixed list. */
  partKind?: string;
  /** What a screen reader says before the label, such as the row's name. */
  of?: string;
  /** Those of the schema's own choices that fit here; one that stands there already is kept. */
  only?: string[];
  /** What an empty choice means; it stays there to go back to. */
  none?: string;
}

const FRAMES = {
  row: "group grid grid-cols-[minmax(6rem,10.5rem)_minmax(0,1fr)] items-start gap-x-3 border-b border-hair py-1",
  stacked: "group min-w-0",
  bare: "group min-w-0",
};
const LABELS = { row: "pt-1.5 font-medium", stacked: "block wrap-anywhere text-tiny leading-tight text-muted", bare: "sr-only" };
const BOX = "w-full min-w-0 rounded-sm border-[1.5px] bg-card px-2 py-1 min-h-9";

/** A labelled control for one path of the job document. */
export const JobField = memo(function JobField({ path, label, layout = "row", options, partKind, of, none, only }: JobFieldProps) {
  const { vocabulary } = useSurroundings();
  const spec = specAt(vocabulary.job_schema, path, partKind);
  if (!spec)
    return (
      <p role="alert" className="py-1 text-small text-stop">
        <Trans>
          {label ?? t`A field`} cannot be shown: a job has no {path}.
        </Trans>
      </p>
    );
  const choices = options ?? (only && spec.options ? spec.options.filter((o) => only.includes(o.value)) : spec.options);
  const name = label ?? spec.title;
  return (
    <Field className={FRAMES[layout]}>
      <Label className={LABELS[layout]}>
        {of ? <span className="sr-only">{of}: </span> : null}
        <TradeWords words={name} />
      </Label>
      <div className="relative min-w-0">
        {choices ? (
          <Choice path={path} choices={choices} fallback={spec.fallback} none={none} />
        ) : (
          <Typed path={path} spec={spec} />
        )}
        {spec.description ? (
          <p className="pointer-events-none absolute inset-x-0 top-full z-10 hidden border-[1.5px] border-edge bg-rail px-2 py-1 text-small text-ink-2 group-focus-within:block">
            {spec.description}
          </p>
        ) : null}
      </div>
    </Field>
  );
});

function Choice({
  path,
  choices,
  fallback,
  none,
}: {
  path: string;
  choices: { value: string; reads: string }[];
  fallback: string | number | null;
  none: string | undefined;
}) {
  const store = useJobStore();
  const value = useJobPart((s) => at(s.document, path));
  const fault = useJobPart((s) => s.faults.find((f) => f.path === path)?.message);
  const chosen = typeof value === "string" ? value : typeof fallback === "string" ? fallback : "";
  const edge = useEdge(path);
  const blank = choices.some((c) => c.value === "");
  const unknown = chosen !== "" && !choices.some((c) => c.value === chosen);
  return (
    <>
      <Select
        data-path={path}
        value={chosen}
        onChange={(e) => store.edit(path, e.target.value === "" && !blank ? null : e.target.value)}
        invalid={!!fault}
        className={`${BOX} ${fault ? "border-stop" : edge}`}
      >
        {none || (chosen === "" && !blank) ? <option value="">{none ?? t`Choose one`}</option> : null}
        {unknown ? (
          <option value={chosen}>
            <Trans>{chosen} (not listed)</Trans>
          </option>
        ) : null}
        {choices.map((c) => (
          <option key={c.value} value={c.value}>
            {c.reads}
          </option>
        ))}
      </Select>
      <FaultLine text={fault} />
    </>
  );
}

/** What nobody typed has a dashed edge. */
function useEdge(path: string): string {
  const isAssumed = useAssumed().some((a) => a.at === path);
  return isAssumed ? "border-dashed border-edge text-muted" : "border-edge";
}

/** What the plan counts with where a field is left empty. */
function filledInAt(plan: Plan | null, path: string): Json | undefined {
  if (!plan) return undefined;
  for (const { tables } of [...plan.stages, ...plan.supplies.map((s) => s.stage)]) {
    const row = tables["filled_in"]?.find((r) => r["at"] === path);
    if (row) return row["value"] as Json;
  }
  return undefined;
}

type Reading = { ok: true; value: Json } | { ok: false; error: string };

/** Read a typed text by its spec: the value, or the words that say what is allowed. */
export function readTyped(text: string, spec: Spec, q: Quantities): Reading {
  if (spec.day) return { ok: true, value: text === "" ? null : text };
  if (spec.kind === null) {
    const longest = spec.longest ?? 200;
    return text.length > longest
      ? { ok: false, error: t`At most ${longest} characters are allowed. This has ${text.length}.` }
      : { ok: true, value: text };
  }
  if (text.trim() === "") return { ok: true, value: null };
  const read = q.read(text, spec.kind);
  if ("error" in read) return { ok: false, error: read.error };
  const { value } = read;
  if (spec.whole && !Number.isInteger(value))
    return { ok: false, error: t`Enter a whole number from ${spec.low ?? 0} to ${spec.high ?? 0}.` };
  if ((spec.low !== null && value < spec.low) || (spec.high !== null && value > spec.high))
    return {
      ok: false,
      error: t`Enter a value from ${q.show(spec.low ?? 0, spec.kind, 6)} to ${q.show(spec.high ?? 0, spec.kind, 6)}.`,
    };
  return { ok: true, value };
}

/** A value of the document as it stands in a field. */
export function writeTyped(value: Json | undefined, spec: Spec, q: Quantities): string {
  if (value === null || value === undefined) return "";
  if (typeof value === "number") return spec.kind === null ? String(value) : q.field(value, spec.kind);
  return typeof value === "string" ? value : "";
}

function Typed({ path, spec }: { path: string; spec: Spec }) {
  const store = useJobStore();
  const q = useQuantities();
  const [typing, setTyping] = useState<string | null>(null);
  const value = useJobPart((s) => at(s.document, path));
  const draft = useJobPart((s) => s.drafts[path]);
  const refused = useJobPart((s) => s.faults.find((f) => f.path === path)?.message);
  const filledIn = useJobPart((s) => filledInAt(s.plan, path));
  const edge = useEdge(path);
  const text = typing ?? draft ?? writeTyped(value ?? spec.fallback, spec, q);
  const read = draft === undefined ? null : readTyped(draft, spec, q);
  const counts = writeTyped(value ?? spec.fallback, spec, q);
  // What was refused counts nowhere: what does is said beside it.
  const fault =
    read && !read.ok
      ? `${read.error} ${counts === "" ? t`Until then the field counts as blank.` : t`Until then Ofen uses ${counts}.`}`
      : refused;

  const typed = (next: string) => {
    setTyping(next);
    const result = readTyped(next, spec, q);
    if (result.ok) store.edit(path, result.value);
    else store.draft(path, next);
  };
  return (
    <>
      <Input
        data-path={path}
        type={spec.day ? "date" : "text"}
        value={text}
        placeholder={filledIn === undefined ? undefined : writeTyped(filledIn, spec, q)}
        invalid={!!fault}
        inputMode={spec.kind ? "text" : undefined}
        autoComplete="off"
        onChange={(e) => typed(e.target.value)}
        onBlur={() => setTyping(null)}
        className={`${BOX} ${spec.kind ? "text-right" : "text-left"} ${fault ? "border-stop bg-ember-wash" : text === "" && filledIn !== undefined ? "border-dashed border-edge" : edge}`}
      />
      <FaultLine text={fault} />
    </>
  );
}

function FaultLine({ text }: { text: string | undefined }) {
  return text ? (
    <p role="alert" className="pt-0.5 text-small text-stop">
      {text}
    </p>
  ) : null;
}
