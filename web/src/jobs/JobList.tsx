import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Select } from "@headlessui/react";
import { useLiveQuery } from "dexie-react-hooks";
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { type JobLine, Problem, answer, api } from "../api/client";
import { type Document, textAt } from "../job/document";
import { copyOf, fetchJob } from "../outbox/copy";
import { bringIn } from "../outbox/bringIn";
import type { KeptJob, Waiting } from "../outbox/db";
import { Button, Message, Skeleton } from "../ui/controls";
import { Growing } from "../ui/Growing";
import { moment, useSurroundings } from "../app/context";
import { ANY, FindBar, type Wanted, isAny } from "./FindBar";
import { Preferences } from "../crew/Preferences";
import { TopBar } from "../app/TopBar";
import { SignOut } from "../app/SignOut";

/** The team's jobs, those that need a person first. */
export function JobList() {
  const { person, device, sender } = useSurroundings();
  const navigate = useNavigate();
  const file = useRef<HTMLInputElement>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [reading, setReading] = useState(false);
  const [filed, setFiled] = useState(false);
  const [wanted, setWanted] = useState(ANY);
  const jobs = useJobLines(filed, wanted);
  const fileAway = async (job: Line) => {
    setProblem(null);
    try {
      await answer(api.PUT("/api/jobs/{job_id}/filed", { params: { path: { job_id: job.id } }, body: { filed: !job.filed } }));
      jobs.again();
    } catch (found) {
      if (!(found instanceof Problem)) throw found;
      setProblem(found);
    }
  };
  const open = async (making: Promise<string>) => {
    setProblem(null);
    try {
      await navigate(`/jobs/${await making}/need`);
    } catch (found) {
      if (!(found instanceof Problem)) throw found;
      setProblem(found);
    }
  };
  const bring = (chosen: File | undefined) => {
    if (!chosen) return;
    setReading(true);
    void open(
      bringIn(device, person.name, chosen).finally(() => {
        setReading(false);
        sender.wake();
      }),
    );
  };
  return (
    <div className="flex-1">
      <TopBar>
        <TeamPicker />
        <Link to="/board" className="font-medium underline">{t`Board`}</Link>
        <Link to="/people" className="text-muted underline">{t`People`}</Link>
        <Link to="/instruments" className="text-muted underline">{t`Instruments`}</Link>
        <Link to="/stock" className="text-muted underline">{t`Cylinders`}</Link>
        <Link data-testid="to-help" to="/help" className="text-muted underline">{t`Help`}</Link>
        <span className="ml-auto flex flex-wrap items-center gap-4">
          <Preferences />
          <span className="text-ink-2">{person.name}</span>
          <SignOut />
        </span>
      </TopBar>
      <main className="mx-auto max-w-5xl px-5 py-5">
        <div className="mb-4 flex flex-wrap items-center gap-3">
          <h1 data-testid="jobs" className="mr-auto text-big font-bold">{t`Jobs`}</h1>
          <TakeOver open={(making) => void open(making)} />
          <Button disabled={reading || person.role === "guest"} onClick={() => file.current?.click()}>
            {reading ? t`Importing` : t`Import job file`}
          </Button>
          <input
            data-testid="job-file"
            ref={file}
            type="file"
            accept="application/zip,.zip,application/json,.json"
            className="sr-only"
            tabIndex={-1}
            aria-label={t`Job file`}
            onChange={(e) => {
              bring(e.target.files?.[0]);
              // The same file may be chosen again.
              e.target.value = "";
            }}
          />
          <Button
            data-testid="make-job"
            look="act"
            disabled={person.role === "guest"}
            onClick={() => void navigate("/new")}
          >{t`Create job`}</Button>
        </div>
        {problem ? (
          <div className="mb-4">
            <Message failed title={problem.message}>
              {problem.detail}
              <ul className="mt-1 list-disc pl-5">
                {problem.faults.map((f) => (
                  <li key={f.path}>
                    <code>{f.path || t`file`}</code> {f.message}
                  </li>
                ))}
              </ul>
            </Message>
          </div>
        ) : null}
        {filed || (jobs.lines?.length === 0 && isAny(wanted)) ? null : (
          <FindBar wanted={wanted} change={setWanted} found={jobs.lines?.length ?? null} silent={jobs.problem?.status === 0} />
        )}
        {jobs.lines === null && !jobs.problem ? <Skeleton /> : null}
        {jobs.problem && jobs.problem.status !== 0 ? (
          <Message failed title={jobs.problem.message}>
            {jobs.problem.detail}
          </Message>
        ) : null}
        {jobs.problem?.status === 0 ? (
          <p className="mb-3 text-ink-2">{t`No signal: these jobs are shown as this device last saved them.`}</p>
        ) : null}
        {jobs.lines?.length === 0 && filed ? <p className="text-muted">{t`There are no archived jobs.`}</p> : null}
        {jobs.lines?.length === 0 && !filed && !isAny(wanted) ? <p className="text-muted">{t`No job matches.`}</p> : null}
        {jobs.lines?.length === 0 && !filed && isAny(wanted) ? (
          <Message title={t`No job yet`}>
            <p className="mb-3">{t`Create a job and say what must be heated, or open an example first.`}</p>
            <Button
              onClick={() => void open(answer(api.POST("/api/jobs", { body: { example: "tram-depot" } })).then((job) => job.id))}
            >{t`Open an example`}</Button>
          </Message>
        ) : null}
        {jobs.lines && jobs.lines.length > 0 ? (
          <Lines jobs={jobs.lines} filed={filed} words={wanted.q !== ""} file={(job) => void fileAway(job)} />
        ) : null}
        <p className="pt-4">
          <Button data-testid="toggle-filed" look="quiet" onClick={() => setFiled(!filed)}>
            {filed ? t`Show current jobs` : t`Show archived jobs`}
          </Button>
        </p>
      </main>
    </div>
  );
}

/** Taking over a job that another team offers, by the word they tell; only a lead does. */
function TakeOver({ open }: { open: (making: Promise<string>) => void }) {
  const { person } = useSurroundings();
  const [secret, setSecret] = useState<string | null>(null);
  if (person.role !== "lead") return null;
  if (secret === null) return <Button look="quiet" onClick={() => setSecret("")}>{t`Accept a transferred job`}</Button>;
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        open(answer(api.POST("/api/taken", { body: { secret } })).then((job) => job.id));
      }}
    >
      <input
        autoFocus
        aria-label={t`Code from the other team`}
        placeholder={t`Code they gave you`}
        value={secret}
        onChange={(e) => setSecret(e.target.value)}
        className="min-h-9 w-56 rounded-sm border-[1.5px] border-edge bg-card px-2 font-mono text-small"
      />
      <Button type="submit" disabled={secret.trim() === ""}>{t`Accept job`}</Button>
    </form>
  );
}

/** The team one works in; who is in several picks it here. */
function TeamPicker() {
  const { person, workIn } = useSurroundings();
  if ((person.teams ?? []).length < 2) return <span className="text-ink-2">{person.team}</span>;
  return (
    <Select
      aria-label={t`Team`}
      value={person.team_id ?? ""}
      onChange={(e) => workIn(Number(e.target.value))}
      className="rounded-sm border border-edge bg-card px-1 py-0.5"
    >
      {person.teams.map((t) => (
        <option key={t.id} value={t.id}>
          {t.name}
        </option>
      ))}
    </Select>
  );
}

const URGENT = new Set([
  "unreadable",
  "change_over_due",
  "bypass_open",
  "sign_off_stale",
  "sign_off_waiting",
  "joint_open",
  "plan_stop",
]);

interface Line extends JobLine {
  /** Whether it is kept on this device, whether on purpose, and how much of it waits here. */
  kept: boolean;
  pinned: boolean;
  waits: number;
  /** When the sign-off was made here that the server did not take and nobody has read yet, "" where there is none. */
  refused: string;
}

/** The server's list, else the one last seen, with what this device keeps and has made. */
function useJobLines(filed: boolean, wanted: Wanted): { lines: Line[] | null; problem: Problem | null; again: () => void } {
  const { device } = useSurroundings();
  const [problem, setProblem] = useState<Problem | null>(null);
  const [fresh, setFresh] = useState<JobLine[] | null>(null);
  const [turn, setTurn] = useState(0);
  const here = useLiveQuery(
    async () => ({
      list: (await device.db.lists.get("jobs"))?.lines ?? [],
      kept: await device.db.jobs.toArray(),
      outbox: await device.db.outbox.toArray(),
      refused: await device.db.runs.filter((r) => r.refusal !== null).toArray(),
    }),
    [device],
  );
  const allSent = here?.outbox.length === 0;
  useEffect(() => {
    let old = false;
    const { days, ...asked } = wanted;
    const since = days > 0 ? { since: new Date(Date.now() - days * DAY_MS).toISOString() } : {};
    const look = () =>
      void answer(api.GET("/api/jobs", { params: { query: { filed, ...asked, ...since } } })).then(
        (lines) => {
          if (old) return undefined;
          setProblem(null);
          setFresh(lines);
          return filed || !isAny(wanted) ? undefined : device.keepList(lines);
        },
        (found: unknown) => {
          if (!(found instanceof Problem)) throw found;
          if (!old) setProblem(found);
        },
      );
    // Whoever types is not asked for at every key.
    const soon = setTimeout(look, wanted.q === "" ? 0 : TYPING_MS);
    globalThis.addEventListener("online", look);
    return () => {
      old = true;
      clearTimeout(soon);
      globalThis.removeEventListener("online", look);
    };
    // Once all that waited has arrived, the server's list says more than this device's.
  }, [device, allSent, filed, turn, wanted]);
  const again = () => setTurn((n) => n + 1);
  if (!here || (fresh === null && problem === null)) return { lines: null, problem, again };
  // Without signal words are looked for in what this device knows.
  const known = problem?.status === 0 ? here.list.filter((line) => says(line, wanted.q)) : (fresh ?? here.list);
  const made =
    filed || !isAny(wanted)
      ? []
      : here.kept.filter(
          (j) => !known.some((line) => line.id === j.id) && (problem !== null || here.outbox.some((w) => w.job === j.id)),
        );
  const lines = [...made.map((job) => lineOf(job, here.outbox)), ...known].map((line) => {
    const kept = here.kept.find((j) => j.id === line.id);
    const run = here.refused.find((r) => r.job === line.id);
    return {
      ...line,
      refused: run ? (run.refusedAt ?? run.begunAt) : "",
      kept: kept !== undefined,
      pinned: kept?.pinned ?? false,
      waits: here.outbox.filter((w) => w.job === line.id).length,
    };
  });
  return { lines: [...lines.filter((l) => l.refused), ...lines.filter((l) => !l.refused)], problem, again };
}

const DAY_MS = 86_400_000;
const TYPING_MS = 200;

/** Whether a line of the list has all of some words. */
function says(line: JobLine, words: string): boolean {
  const told = `${line.name} ${line.place} ${line.note}`.toLowerCase();
  return words
    .toLowerCase()
    .split(/\s+/)
    .every((w) => told.includes(w));
}

function lineOf(job: KeptJob, outbox: Waiting[]): JobLine {
  const isBrought = outbox.some((w) => w.job === job.id && w.record.kind === "file");
  const next = { code: "here_only", words: isBrought ? t`Imported on this device` : t`Created on this device`, stage: "need" };
  return {
    id: job.id,
    name: textAt(job.document, "name"),
    note: textAt(job.document, "note"),
    place: textAt(job.document, "site.place"),
    saved_at: "",
    filed: false,
    next,
  };
}

interface LinesProps {
  jobs: Line[];
  /** Whether these are the ones filed away. */
  filed: boolean;
  /** Whether they were found by words: then filed ones are among them. */
  words: boolean;
  /** File a job away, or put it back. */
  file: (job: Line) => void;
}

function Lines({ jobs, filed, words, file }: LinesProps) {
  const { device, sender, person } = useSurroundings();
  const pin = async (job: Line) => {
    if (!job.kept) await fetchJob(device, job.id, false);
    await device.pin(job.id, !job.pinned);
  };
  const navigate = useNavigate();
  /** A job of its own with the same document; records stay with the first. */
  const copy = (job: Line) =>
    void (async () => {
      const document = (await device.db.jobs.get(job.id))?.document ?? ((await copyOf(job.id)).job.document as Document);
      const id = await device.makeJob({ ...document, name: `${textAt(document, "name")} (copy)`.slice(0, 120) });
      sender.wake();
      await navigate(`/jobs/${id}/need`);
    })().catch(() => undefined);
  return (
    <>
      <p className="mb-2 text-small text-muted">
        {filed
          ? t`Archived jobs are out of the list. Nothing in them is lost.`
          : words
            ? t`Archived jobs are included.`
            : t`Sorted by what needs attention next.`}
      </p>
      <Growing
        className="border-t-[1.5px] border-frame"
        rows={jobs}
        row={(job) => (
          <li
            key={job.id}
            data-job={job.id}
            data-pinned={job.pinned}
            className="grid grid-cols-[1fr_auto] items-center gap-3 border-b border-rule"
          >
            <Link
              to={`/jobs/${job.id}/${job.refused ? "commissioning" : job.next.stage}`}
              // It comes while the page that shows it is still on its way.
              onClick={() => job.next.code !== "here_only" && void fetchJob(device, job.id).catch(() => undefined)}
              className="grid min-h-14 min-w-0 items-center gap-x-4 px-2 py-2 hover:bg-card sm:grid-cols-[1fr_auto]"
            >
              <span className="min-w-0">
                <span className="block text-base font-semibold sm:truncate">{job.name}</span>
                <span className="block text-small sm:truncate text-muted">{[job.place, job.note].filter(Boolean).join(" · ")}</span>
              </span>
              <span
                className={`font-medium sm:text-right ${job.refused || URGENT.has(job.next.code) ? "text-ember-ink" : "text-ink-2"}`}
              >
                {job.refused ? (
                  <span data-testid="sign-off-refused" className="block">
                    <Trans>Your sign-off of {moment(job.refused, "short")} was refused</Trans>
                  </span>
                ) : null}
                {job.filed ? t`Archived jobs` : job.next.words}
                {job.waits > 0 ? (
                  <span className="block text-small font-normal text-ember-ink">
                    <Trans>{job.waits} on this device only</Trans>
                  </span>
                ) : null}
              </span>
            </Link>
            <span className="flex flex-col items-end sm:flex-row sm:items-center">
              {job.next.code === "change_over_due" ? (
                <Link
                  className="inline-flex min-h-9 items-center rounded-sm border-[1.5px] border-frame bg-card px-3 font-medium"
                  to={`/jobs/${job.id}/running#change-over`}
                >
                  <Trans>
                    Change over<span className="sr-only">: {job.name}</span>
                  </Trans>
                </Link>
              ) : null}
              <Button data-testid="pin" look="quiet" onClick={() => void pin(job).catch(() => undefined)}>
                {job.pinned ? t`Remove offline copy` : t`Save offline`}
                <span className="sr-only"> {job.name}</span>
              </Button>
              {person.role === "guest" || job.next.code === "here_only" ? null : (
                <>
                  <Button data-testid="copy" look="quiet" onClick={() => copy(job)}>
                    <Trans>
                      Copy<span className="sr-only"> {job.name}</span>
                    </Trans>
                  </Button>
                  <Button data-testid="file" look="quiet" onClick={() => file(job)}>
                    {job.filed ? t`Restore job` : t`Archive job`}
                    <span className="sr-only"> {job.name}</span>
                  </Button>
                </>
              )}
            </span>
          </li>
        )}
      />
    </>
  );
}
