// What a stage comes to: headline figures, verdicts, and the working behind each number.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/react";
import { memo, useState } from "react";
import { Link } from "react-router";
import type { Assumed, Figure, Part, Stage, Verdict } from "../api/client";
import { useQuantities } from "../app/context";
import { useAssumed, useJobPart, useJobStore } from "../job/context";
import { guestWords, Skeleton } from "./controls";
import { levelWords, Mark } from "./Mark";

/** The formula, inputs and source of a figure. */
export function Working({ figure }: { figure: Figure }) {
  const q = useQuantities();
  return (
    <div className="space-y-1 border-l-2 border-gas py-1 pl-3 text-small text-ink-2">
      <p className="font-medium text-ink">
        {q.show(figure.value, figure.kind)} = {figure.formula}
      </p>
      <ul>
        {figure.inputs.map((i) => (
          <li key={i.name} className="flex justify-between gap-4">
            <span>{i.name}</span>
            <span className="whitespace-nowrap">{typeof i.value === "number" ? q.show(i.value, i.kind) : i.value}</span>
          </li>
        ))}
      </ul>
      <p className="text-muted">
        <Trans>Source: {figure.source}</Trans>
      </p>
    </div>
  );
}

const ifOtherwise = () => t`if the assumed values differ`;

/** Between what a headline lies, by whichever single value that nobody typed moves it furthest; null where none does. */
function rangeOf(figure: Figure, assumed: readonly Assumed[]): [number, number] | null {
  const ends = assumed.flatMap((a) => a.spans.filter((s) => s.figure === figure.key).flatMap((s) => [s.low, s.high]));
  return ends.length > 0 ? [Math.min(figure.value, ...ends), Math.max(figure.value, ...ends)] : null;
}

/** One number in large type that opens to its working. */
function Tile({ figure }: { figure: Figure }) {
  const q = useQuantities();
  const { number, unit } = q.split(figure.value, figure.kind);
  const ends = rangeOf(figure, useAssumed());
  return (
    <Disclosure as="div" data-figure={figure.key} className="min-w-0 border-r border-rule last:border-r-0">
      <DisclosureButton className="w-full px-3 py-2 text-left">
        <span key={number} className="changed block text-big font-bold leading-tight">
          {number} <span className="text-body font-semibold">{unit}</span>
        </span>
        <span className="block text-small text-muted">{figure.name}</span>
        {/* Its place is kept: what stands below must not move away from under a hand. */}
        <span
          data-testid="range"
          title={ends ? ifOtherwise() : undefined}
          className="block min-h-[1lh] truncate text-tiny text-muted"
        >
          {ends ? (
            <span className="underline decoration-dashed underline-offset-3">
              <Trans>
                {q.show(ends[0], figure.kind)} to {q.show(ends[1], figure.kind)}
                <span className="sr-only"> {ifOtherwise()}</span>
              </Trans>
            </span>
          ) : null}
        </span>
        <span className="block text-tiny text-ember-ink underline">{t`how it is worked out`}</span>
      </DisclosureButton>
      <DisclosurePanel className="px-3 pb-2">
        <Working figure={figure} />
      </DisclosurePanel>
    </Disclosure>
  );
}

/** The headline figures of a stage. */
export function Headlines({ stage, part }: { stage: Stage; part?: Part | undefined }) {
  return (
    <Tiles
      figures={stage.headlines
        .map((key) => stage.figures.find((f) => f.key === key))
        .filter((f) => f !== undefined)
        .filter(standsOn(part))}
    />
  );
}

/** Figures in large type, side by side. */
export function Tiles({ figures }: { figures: Figure[] }) {
  if (figures.length === 0) return null;
  return (
    <div className="mb-3 grid grid-cols-2 rounded-sm border-[1.5px] border-frame bg-card md:grid-cols-[repeat(auto-fit,minmax(8rem,1fr))]">
      {figures.map((f) => (
        <Tile key={f.key} figure={f} />
      ))}
    </div>
  );
}

/** One judgement: shape and word, what, why, what to do, how far it holds. */
export function VerdictRow({ verdict }: { verdict: Verdict }) {
  const q = useQuantities();
  const store = useJobStore();
  const say = (template: string) => q.say(template, verdict.values);
  const remedy = say(verdict.remedy);
  const machines = useJobPart((s) => s.plan?.machines);
  const isOfMachine = verdict.code.startsWith("running.seen.") && machines?.some((m) => m.id === verdict.subject);
  return (
    <li
      id={`verdict-${verdict.code}`}
      data-level={verdict.level}
      className="grid grid-cols-[6.5rem_1fr] gap-x-2 border-t border-hair py-2 md:grid-cols-[6.5rem_1fr_11rem]"
    >
      <span className="flex items-start gap-2 font-semibold">
        <Mark level={verdict.level} silent />
        {levelWords()[verdict.level]}
      </span>
      <span>
        <span className="block font-semibold">{say(verdict.title)}</span>
        <span className="block text-small text-ink-2">{say(verdict.reason)}</span>
        <span className="block text-tiny text-muted">{verdict.source}</span>
      </span>
      <span className="col-start-2 text-small md:col-start-3">
        {verdict.fix.length > 0 ? (
          <button
            type="button"
            data-testid="fix"
            disabled={store.role === "guest"}
            title={store.role === "guest" ? guestWords() : undefined}
            onClick={() => void store.fix(verdict)}
            className="text-left font-semibold underline decoration-ember decoration-2 underline-offset-3 disabled:no-underline"
          >
            {remedy}
          </button>
        ) : (
          <span className="block">{remedy}</span>
        )}
        {verdict.holds_to ? <span className="block text-muted">{say(verdict.holds_to)}</span> : null}
        {isOfMachine ? (
          <Link
            data-testid="find-fault"
            className="underline"
            to={`/jobs/${store.id}/faults/${verdict.subject}`}
          >{t`Fault finder`}</Link>
        ) : null}
      </span>
    </li>
  );
}

/** Whether a figure or verdict stands on a page of its stage; on a stage without pages all do. */
export const standsOn =
  (part: Part | undefined) =>
  (one: { part: Part }): boolean =>
    part === undefined || one.part === part;

const FOLDED = new Set<Verdict["level"]>(["note", "good"]);
const OPENED = "ofen.goods.opened";

/** What is well or only told: one line with how many and the one nearest its limit; opened by a tap, and so it stays on this device. */
function Folded({ verdicts }: { verdicts: Verdict[] }) {
  const q = useQuantities();
  const [open, setOpen] = useState(() => localStorage.getItem(OPENED) === "yes");
  if (verdicts.length === 0) return null;
  const toggle = () => {
    setOpen(!open);
    localStorage.setItem(OPENED, open ? "no" : "yes");
  };
  const worst = verdicts.find((v) => v.level === "good")?.level ?? "note";
  const count = (level: Verdict["level"], one: string, many: string) => {
    const n = verdicts.filter((v) => v.level === level).length;
    return n === 0 ? [] : [`${n} ${n === 1 ? one : many}`];
  };
  const tightest = verdicts.reduce<Verdict | null>((best, v) => ((v.used ?? -1) > (best?.used ?? -1) ? v : best), null);
  const first = tightest ?? verdicts[0];
  const words = first
    ? [first.title, first.holds_to]
        .filter(Boolean)
        .map((t) => q.say(t, first.values))
        .join(". ")
    : "";
  const told = tightest?.used == null ? words : t`Closest to its limit (${q.show(tightest.used, "fraction")}): ${words}`;
  return (
    <>
      <button
        type="button"
        aria-expanded={open}
        onClick={toggle}
        className="grid w-full grid-cols-[minmax(6rem,auto)_1fr_auto] gap-x-3 border-t border-hair py-2 text-left"
      >
        <span className="flex items-start gap-2 font-semibold">
          <Mark level={worst} silent />
          {[...count("good", "good", "good"), ...count("note", "note", "notes")].join(", ")}
        </span>
        <span className="text-small text-ink-2">{open ? null : told}</span>
        <span className="text-small font-medium text-ember-ink underline">{open ? t`hide` : t`show`}</span>
      </button>
      {open ? <Verdicts label={t`Good and notes`} verdicts={verdicts} /> : null}
    </>
  );
}

const Verdicts = ({ label, verdicts }: { label: string; verdicts: Verdict[] }) => (
  <ul aria-label={label}>
    {verdicts.map((v) => (
      <VerdictRow key={`${v.code} ${v.subject} ${v.at}`} verdict={v} />
    ))}
  </ul>
);

interface AnswersProps {
  stage: Stage | null;
  /** The page of the stage whose figures and verdicts stand here; all of them where none is told. */
  part?: Part;
  /** Tables and charts, between the headline figures and the verdicts. */
  children?: React.ReactNode;
  /** Tables and charts to choose from, after the verdicts. */
  choices?: React.ReactNode;
}

/** All that a stage, or a part of one, comes to. */
const Answers = memo(function Answers({ stage, part, children, choices }: AnswersProps) {
  if (!stage) return <Skeleton />;
  const others = stage.figures.filter(standsOn(part)).filter((f) => !stage.headlines.includes(f.key));
  const verdicts = stage.verdicts.filter(standsOn(part));
  return (
    <>
      <Headlines stage={stage} part={part} />
      {children}
      <Verdicts label={t`Verdicts`} verdicts={verdicts.filter((v) => !FOLDED.has(v.level))} />
      <Folded verdicts={verdicts.filter((v) => FOLDED.has(v.level))} />
      {choices ? <div className="mt-4">{choices}</div> : null}
      {others.length > 0 ? (
        <Disclosure as="div" className="mt-3 border-t border-rule pt-2">
          <DisclosureButton data-testid="all-figures" className="font-medium text-ember-ink underline">
            <Trans>All figures ({others.length})</Trans>
          </DisclosureButton>
          <DisclosurePanel className="mt-2 space-y-3">
            {others.map((f) => (
              <div key={f.key}>
                <p className="font-medium">{f.name}</p>
                <Working figure={f} />
              </div>
            ))}
          </DisclosurePanel>
        </Disclosure>
      ) : null}
    </>
  );
});

interface StagePartProps extends Omit<AnswersProps, "stage"> {
  /** The fields, at the left. */
  given: React.ReactNode;
  /** What answers it; null until there is an answer, left out where nothing is computed. */
  stage?: Stage | null;
  /** What stands over the answers. */
  above?: React.ReactNode;
}

/** A stage, or a part of one: what is given at the left, what it comes to at the right; stacked on a narrow screen. */
export function StagePart({ given, stage, above, ...answers }: StagePartProps) {
  const guest = useJobStore().role === "guest";
  return (
    <div className="grid min-h-0 grid-cols-[minmax(0,1fr)] lg:grid-cols-[minmax(27rem,30rem)_1fr] print:block">
      <section data-testid="inputs" aria-label={t`Inputs`} className="min-w-0 border-rule print:border-r-0 px-5 py-3 lg:border-r">
        <h2 className="mb-2 text-small text-muted">{t`Inputs`}</h2>
        <fieldset disabled={guest} className="min-w-0">
          {guest ? <p className="pb-2 text-ink-2">{guestWords()}</p> : null}
          {given}
        </fieldset>
      </section>
      <section data-testid="results" id="comes-to" aria-label={t`Results`} aria-live="polite" className="max-lg:min-w-0 px-5 py-3">
        <h2 className="mb-2 text-small text-muted">{t`Results`}</h2>
        {guest ? (
          <p className="pb-2 text-small text-ink-2">{t`You are a guest in this team, so you cannot change the job.`}</p>
        ) : null}
        {above}
        {stage === undefined ? null : <Answers stage={stage} {...answers} />}
      </section>
    </div>
  );
}
