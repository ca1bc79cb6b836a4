// Making a job: what one is there to do, a few questions with their usual answers, and what it comes to beside them.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Input, Select } from "@headlessui/react";
import { useEffect, useMemo, useRef, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { v7 as uuidv7 } from "uuid";
import { type Fault, type OwnStart, Problem, type Question, type StartKind, type Started, answer, api } from "../api/client";
import { ask } from "../engine/ask";
import { Stale } from "../engine/engine";
import type { Document, Json } from "../job/document";
import { FuelPath } from "../path/FuelPath";
import { NodeSign } from "../path/NodeSign";
import { Tiles } from "../ui/answers";
import { Button, Message, Skeleton } from "../ui/controls";
import { WithAssumedOf } from "./AssumedLine";
import { type Quantities, useQuantities, useSurroundings } from "../app/context";
import { emptyJob } from "./newJob";
import { Preferences } from "../crew/Preferences";
import { begins } from "../help/firstJob";
import { TopBar } from "../app/TopBar";

/** A start is a picture of its path: a few of the signs, in their order. */
function PathSign({ sign }: { sign: string[] }) {
  const few = sign.length > 4 ? [sign[0], ...sign.slice(-3)] : sign;
  return (
    <span aria-hidden="true" className="relative flex h-6 w-20 shrink-0 items-center justify-between">
      <span className="absolute inset-x-2 top-1/2 h-[3px] -translate-y-1/2 bg-gas" />
      {few.map((kind, n) => (
        <span key={`${n} ${kind ?? ""}`} className="relative w-5 [&_svg]:h-5 [&_svg]:w-6">
          <NodeSign kind={kind ?? ""} />
        </span>
      ))}
    </span>
  );
}

type Typed = Record<string, string>;

interface Read {
  answers: Record<string, Json>;
  faults: Fault[];
}

/** The answers as they were typed, in SI; what cannot be read is named at its question. */
function readAnswers(questions: Question[], typed: Typed, q: Quantities): Read {
  const answers: Record<string, Json> = {};
  const faults: Fault[] = [];
  for (const question of questions) {
    const text = typed[question.key];
    if (text === undefined || text.trim() === "") continue;
    if (question.kind === "choice") answers[question.key] = text;
    else {
      const read = q.read(text, question.kind === "whole" ? "count" : question.kind);
      if ("error" in read) faults.push({ path: question.key, message: read.error });
      else answers[question.key] = read.value;
    }
  }
  return { answers, faults };
}

interface Making {
  /** What the answers come to, of the last ones while the newest are on their way. */
  made: Started | null;
  problem: Problem | null;
  /** Does something with the job of the answers as they stand now, as soon as it is made. */
  withThese: (use: (document: Document) => void) => void;
}

/** What the answers make. */
function useStarted(key: string, read: Read): Making {
  const { person } = useSurroundings();
  const [made, setMade] = useState<{ key: string; told: string; started: Started } | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const told = JSON.stringify(read.answers);
  const turn = useRef(0);
  const wanted = useRef<((document: Document) => void) | null>(null);
  useEffect(() => {
    turn.current += 1;
    const mine = turn.current;
    ask("start", { key, answers: JSON.parse(told) as Document, units: person.units }, "start").then(
      (started) => {
        if (mine !== turn.current) return;
        setMade({ key, told, started });
        setProblem(null);
        wanted.current?.(started.document as Document);
        wanted.current = null;
      },
      (found: unknown) => {
        if (found instanceof Stale || mine !== turn.current) return;
        if (!(found instanceof Problem)) throw found;
        wanted.current = null;
        setProblem(found);
      },
    );
  }, [key, told, person.units]);
  const withThese = (use: (document: Document) => void) => {
    if (made?.key === key && made.told === told) use(made.started.document as Document);
    else wanted.current = use;
  };
  return { made: made?.key === key ? made.started : null, problem, withThese };
}

export function StartsPage() {
  const { vocabulary, person, device, sender } = useSurroundings();
  const [params, setParams] = useSearchParams();
  const navigate = useNavigate();
  const starts = vocabulary.starts;
  const chosen = starts.find((s) => s.key === params.get("start"));
  const make = (document: Document) => {
    void (async () => {
      const isFirst = (await device.db.jobs.count()) === 0;
      const id = await device.makeJob(document);
      if (isFirst) begins(id);
      sender.wake();
      await navigate(`/jobs/${id}/need`);
    })();
  };
  const groups = [...new Map(starts.map((s) => [s.group, s.group_title]))];
  return (
    <div className="flex flex-1 flex-col">
      <TopBar>
        <Link data-testid="to-jobs" to="/" className="text-muted underline">{t`Jobs`}</Link>
        <span className="ml-auto">
          <Preferences />
        </span>
      </TopBar>
      <div className="flex-1 lg:grid lg:grid-cols-[25rem_minmax(0,1fr)]">
        <nav
          data-testid="starts"
          aria-label={t`Job types`}
          className={`border-rule px-5 py-4 lg:border-r ${chosen ? "hidden lg:block" : ""}`}
        >
          <h1 className="text-xl font-bold">{t`What is the job?`}</h1>
          {groups.map(([group, title]) => (
            <section key={group} aria-label={title}>
              <h2 className="pb-0.5 pt-3 text-small text-muted">{title}</h2>
              <ul>
                {starts
                  .filter((s) => s.group === group)
                  .map((s) => (
                    <li key={s.key} className="border-b border-hair">
                      <button
                        type="button"
                        data-start={s.key}
                        aria-current={s.key === chosen?.key}
                        onClick={() => setParams({ start: s.key })}
                        className={`flex w-full items-center gap-3 py-1.5 text-left ${s.key === chosen?.key ? "-ml-2 border-l-4 border-ember bg-card pl-1" : ""}`}
                      >
                        <PathSign sign={s.sign} />
                        <span className="min-w-0">
                          <span className="block font-semibold">{s.title}</span>
                          <span className="block text-small text-muted">{s.words}</span>
                        </span>
                      </button>
                    </li>
                  ))}
              </ul>
            </section>
          ))}
          <OwnStarts make={make} />
          <p className="pt-4">
            <Button
              data-testid="empty-job"
              look="quiet"
              disabled={person.role === "guest"}
              onClick={() => make(emptyJob(person.units))}
            >{t`Start with an empty job`}</Button>
          </p>
        </nav>
        <main className="min-w-0 py-4 lg:sticky lg:top-0 lg:self-start">
          {chosen ? (
            <Asked key={chosen.key} start={chosen} make={make} />
          ) : (
            <p className="hidden px-6 pt-2 text-muted lg:block">{t`Choose the job type that fits best. Every question already has its usual answer. What you do not enter stays on a list until someone confirms it.`}</p>
          )}
        </main>
      </div>
    </div>
  );
}

/** The questions of one start, and what the answers come to. */
function Asked({ start, make }: { start: StartKind; make: (document: Document) => void }) {
  const { person } = useSurroundings();
  const q = useQuantities();
  const [typed, setTyped] = useState<Typed>({});
  const [, setParams] = useSearchParams();
  const read = useMemo(() => readAnswers(start.questions, typed, q), [start, typed, q]);
  const { made, problem, withThese } = useStarted(start.key, read);
  const faults = [...read.faults, ...(made?.faults ?? [])];
  const assumed = start.questions.filter(
    (question) => !(question.key in read.answers) || faults.some((f) => f.path === question.key),
  ).length;
  const supply = made?.plan.supplies[0];
  return (
    <>
      <div className="px-6">
        <p className="lg:hidden">
          <Button look="quiet" onClick={() => setParams({})}>{t`Show all job types`}</Button>
        </p>
        <h2 className="inline text-xl font-bold">{start.title}</h2>
        <span className="pl-3 text-muted">
          <Trans>{start.questions.length} answers. The dashed ones are usual values, not entered by you</Trans>
        </span>
        <ul className="pt-2">
          {start.questions.map((question) => (
            <Ask
              key={question.key}
              question={question}
              text={typed[question.key]}
              fault={faults.find((f) => f.path === question.key)?.message}
              type={(text) => setTyped({ ...typed, [question.key]: text })}
            />
          ))}
        </ul>
      </div>
      {problem ? (
        <div className="px-6 py-3">
          <Message failed title={problem.message}>
            {problem.detail}
          </Message>
        </div>
      ) : null}
      <div className="mt-3 border-t-[1.5px] border-frame">
        {made ? (
          <FuelPath base="" path={supply?.path ?? []} ways={supply?.ways ?? []} plain />
        ) : (
          <div className="p-5">
            <Skeleton lines={2} />
          </div>
        )}
      </div>
      <div className="px-6 pt-4">
        {made ? (
          <WithAssumedOf document={made.document as Document}>
            <Tiles figures={made.headlines} />
          </WithAssumedOf>
        ) : (
          <Skeleton lines={1} />
        )}
        <div className="flex flex-wrap items-center gap-3">
          <Button
            data-testid="make-this-job"
            look="act"
            disabled={!made || person.role === "guest"}
            onClick={() => withThese(make)}
          >{t`Create this job`}</Button>
          <KeepStart title={start.title} withThese={made ? withThese : null} />
          <span className="text-muted">
            {assumed === 0
              ? t`You entered every answer.`
              : t`${assumed} ${assumed === 1 ? t`answer is` : t`answers are`} assumed and stay on a list until someone confirms them. The dashed range under a figure shows how far another answer could move it.`}
          </span>
        </div>
      </div>
    </>
  );
}

interface AskProps {
  question: Question;
  /** As typed; undefined while the usual answer stands. */
  text: string | undefined;
  fault: string | undefined;
  type: (text: string) => void;
}

const BOX = "w-full rounded-sm border-[1.5px] bg-card px-2 py-1.5";

function Ask({ question, text, fault, type }: AskProps) {
  const q = useQuantities();
  const kind = question.kind === "whole" ? "count" : question.kind;
  const usual = typeof question.usual === "number" ? q.field(question.usual, kind) : question.usual;
  const isTyped = text !== undefined && text.trim() !== "";
  const look = fault ? "border-stop bg-ember-wash" : isTyped ? "border-edge" : "border-dashed border-edge text-muted";
  return (
    <li className="grid grid-cols-[minmax(0,1fr)_10rem] items-center gap-x-4 border-b border-hair py-1.5 md:grid-cols-[15rem_13rem_minmax(0,1fr)]">
      <label htmlFor={`ask-${question.key}`}>{question.label}</label>
      {question.kind === "choice" ? (
        <Select
          id={`ask-${question.key}`}
          value={text ?? usual}
          onChange={(e) => type(e.target.value)}
          className={`${BOX} ${look}`}
        >
          {question.options.map((o) => (
            <option key={o.value} value={o.value}>
              {o.reads}
            </option>
          ))}
        </Select>
      ) : (
        <Input
          id={`ask-${question.key}`}
          value={text ?? usual}
          autoComplete="off"
          invalid={!!fault}
          onFocus={(e) => e.target.select()}
          onChange={(e) => type(e.target.value)}
          className={`${BOX} text-right ${look}`}
        />
      )}
      <span className="col-span-2 text-small text-muted md:col-span-1">
        {fault ? (
          <span role="alert" className="text-stop">
            <Trans>
              {fault.replace(/\.?$/, ".")} Until then Ofen uses {question.options.find((o) => o.value === usual)?.reads ?? usual}.
            </Trans>
          </span>
        ) : (
          <>
            {question.help}
            {isTyped ? "" : t` (usual)`}
          </>
        )}
      </span>
    </li>
  );
}

/** Keep what the answers make as a start of the team. */
function KeepStart({ title, withThese }: { title: string; withThese: Making["withThese"] | null }) {
  const { person } = useSurroundings();
  const [kept, setKept] = useState<string | null>(null);
  const keep = (document: Document) => {
    setKept("…");
    void answer(api.PUT("/api/starts/{start_id}", { params: { path: { start_id: uuidv7() } }, body: { title, document } })).then(
      () => setKept(t`Saved for the team`),
      (found: unknown) => setKept(found instanceof Problem ? found.message : t`Not saved`),
    );
  };
  return kept ? (
    <span role="status">{kept}</span>
  ) : (
    <Button
      data-testid="keep-start"
      disabled={!withThese || person.role === "guest"}
      onClick={() => withThese?.(keep)}
    >{t`Save as team job type`}</Button>
  );
}

/** The starts the team has kept; they need signal. */
function OwnStarts({ make }: { make: (document: Document) => void }) {
  const { person } = useSurroundings();
  const [own, setOwn] = useState<OwnStart[]>([]);
  useEffect(() => {
    void answer(api.GET("/api/starts")).then(setOwn, () => undefined);
  }, [person.team_id]);
  if (own.length === 0) return null;
  return (
    <section data-testid="own-starts" aria-label={t`Saved by the team`}>
      <h2 className="pb-0.5 pt-3 text-small text-muted">{t`Saved by the team`}</h2>
      <ul>
        {own.map((s) => (
          <li key={s.id} className="flex items-center gap-3 border-b border-hair py-1.5">
            <button
              type="button"
              disabled={person.role === "guest"}
              onClick={() => make(s.document as Document)}
              className="min-w-0 flex-1 text-left font-semibold underline decoration-rule underline-offset-3"
            >
              {s.title}{" "}
              <span className="block text-small font-normal text-muted">
                <Trans>saved by {s.by}</Trans>
              </span>
            </button>
            {person.role === "guest" ? null : (
              <Button
                look="quiet"
                onClick={() =>
                  void answer(api.DELETE("/api/starts/{start_id}", { params: { path: { start_id: s.id } } })).then(setOwn)
                }
              >{t`Delete job type`}</Button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
