// One job: the rail of stages, the fuel path, the stage itself.
import { t } from "@lingui/core/macro";
import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { useLiveQuery } from "dexie-react-hooks";
import { useEffect, useMemo, useState, useSyncExternalStore } from "react";
import { Link, useLocation, useParams } from "react-router";
import { type PathNode, type Plan, Problem, type Run, type Stage, type StageName, type Way } from "../api/client";
import { engine, todaysOf } from "../engine/ask";
import {
  JobContext,
  RecordsContext,
  SupplyHereContext,
  together,
  useJob,
  useJobRecords,
  useJobStore,
  useRecords,
} from "../job/context";
import { textAt } from "../job/document";
import { formatOf } from "../job/schema";
import { JobStore, type SaveState } from "../job/store";
import { fetchJob } from "../outbox/copy";
import type { KeptJob } from "../outbox/db";
import { saveJob } from "../outbox/save";
import { FuelPath } from "../path/FuelPath";
import { CommissioningStage } from "../stages/commissioning/CommissioningStage";
import { FaultFinder } from "../stages/commissioning/FaultFinder";
import { HandsMode } from "../stages/commissioning/HandsMode";
import { JobBypasses } from "../stages/commissioning/JobBypasses";
import { KitList } from "../stages/commissioning/KitList";
import { EquipmentStage } from "../stages/equipment/EquipmentStage";
import { HandoverStage } from "../stages/handover/HandoverStage";
import { NeedStage } from "../stages/need/NeedStage";
import { RunningStage } from "../stages/running/RunningStage";
import { Visit } from "../stages/running/Visit";
import { SitingStage } from "../stages/siting/SitingStage";
import { SupplyStage } from "../stages/supply/SupplyStage";
import { Button, Message, Skeleton } from "../ui/controls";
import { Guarded } from "../ui/Guarded";
import { Mark } from "../ui/Mark";
import { AssumedLine, WithAssumed } from "./AssumedLine";
import { ClosedLine } from "./ClosedLine";
import { ConflictPanel } from "./ConflictPanel";
import { UnitPage } from "./UnitPage";
import { useQuantities, useSurroundings } from "../app/context";
import { Keys } from "../crew/Keys";
import { useLittleRoom } from "../app/media";
import { NewsLine } from "./NewsLine";
import { Preferences } from "../crew/Preferences";
import { Rail } from "./Rail";
import { FirstJob } from "../help/FirstJob";
import { showHelp } from "../help/open";

export const stagePages = (): { name: StageName; word: string; page: () => React.ReactNode }[] => [
  { name: "need", word: t`Need`, page: NeedStage },
  { name: "equipment", word: t`Equipment`, page: EquipmentStage },
  { name: "supply", word: t`Supply`, page: SupplyStage },
  { name: "siting", word: t`Siting`, page: SitingStage },
  { name: "commissioning", word: t`Commissioning`, page: CommissioningStage },
  { name: "running", word: t`Running`, page: RunningStage },
  { name: "handover", word: t`Handover`, page: HandoverStage },
];

const STAGE_NAMES = stagePages().map((s) => s.name);

/** The page of the guide that helps at a place of a job. */
const helpOf = (place: string) =>
  STAGE_NAMES.some((s) => s === place) ? place : place === "kit" ? "commissioning" : "at-the-unit";

/** Pages of a job beside its stages: no path over them. */
const otherPages = (): Record<string, { word: string; page: () => React.ReactNode }> => ({
  kit: { word: t`Kit list`, page: KitList },
  faults: { word: t`Fault finder`, page: FaultFinder },
  unit: { word: t`At the unit`, page: UnitPage },
});

export function JobPage() {
  const { jobId = "" } = useParams();
  const { device, sender } = useSurroundings();
  const kept = useLiveQuery(async () => (await device.db.jobs.get(jobId)) ?? null, [device, jobId]);
  const problem = useRefresh(jobId);
  const there = useTodays(kept ?? null);
  const store = useMemo(() => (there && kept ? new JobStore(kept, device, sender) : null), [jobId, there, device, sender]);
  useEffect(() => store?.open(), [store]);
  if (store)
    return (
      <JobContext value={store}>
        <OpenJob />
      </JobContext>
    );
  if (kept === null && problem)
    return (
      <div className="p-6">
        <Message failed title={problem.message}>
          <p>
            {problem.status === 0
              ? t`This job is not saved on this device. Open it once with signal, or save it offline first.`
              : t`It may belong to another team.`}
          </p>
          <Link to="/" className="underline">{t`Go to the jobs`}</Link>
        </Message>
      </div>
    );
  return (
    <div className="p-6">
      <Skeleton />
    </div>
  );
}

/** Whether the job is kept here in today's format; one kept by an older version of Ofen is upgraded first. */
function useTodays(kept: KeptJob | null): boolean {
  const { device, vocabulary } = useSurroundings();
  const today = formatOf(vocabulary.job_schema);
  const old = kept !== null && kept.document["format"] !== today;
  useEffect(() => {
    if (old) void device.upgrade(kept.id, today, todaysOf).catch(() => undefined);
  }, [device, kept, old, today]);
  return kept !== null && !old;
}

/** Fetch the job anew whenever it is opened or the signal comes back; what the server says of it when it does not give it. */
function useRefresh(jobId: string): Problem | null {
  const { device, sender } = useSurroundings();
  const [problem, setProblem] = useState<Problem | null>(null);
  useEffect(() => {
    const fetchIt = async () => {
      setProblem(null);
      try {
        const kept = await device.db.jobs.get(jobId);
        // A job that waits here and has never arrived is no stranger to be asked for.
        if (kept && kept.base === null && (await device.db.outbox.where("job").equals(jobId).count()) > 0) return;
        await fetchJob(device, jobId);
      } catch (found) {
        if (!(found instanceof Problem)) throw found;
        // A server brought back from a backup lacks what this device still holds: then it is offered, not forgotten.
        if (found.epoch !== null) {
          await device.meet(found.epoch);
          sender.wake();
        }
        if (found.status === 404) await device.lost(jobId);
        setProblem(found);
      }
    };
    const again = () => void fetchIt();
    again();
    globalThis.addEventListener("online", again);
    return () => globalThis.removeEventListener("online", again);
  }, [device, sender, jobId]);
  return problem;
}

function OpenJob() {
  const records = useJobRecords();
  return (
    <RecordsContext value={records}>
      <WithAssumed>
        <Stages />
      </WithAssumed>
    </RecordsContext>
  );
}

function Stages() {
  const { jobId = "", stage = "need", runId } = useParams();
  const { document: job, plan, conflict } = useJob();
  const here = stagePages().find((s) => s.name === stage) ?? stagePages()[0];
  const beside = otherPages()[stage];
  const base = `/jobs/${jobId}`;
  const { runs, entries, running, lines: recorded } = useRecords();
  const lines = useMemo(() => [...(plan?.lines ?? []), ...recorded], [plan, recorded]);
  const hasLittleRoom = useLittleRoom();
  useEffect(() => {
    document.title = `${textAt(job, "name")} · ${stage === "visit" ? t`Visit` : ((beside ?? here)?.word ?? "")} · Ofen`;
  }, [job, here, beside, stage]);
  useScrollToHash(plan !== null);
  useFromTheTop(stage);
  const reading = stage === "commissioning" || stage === "running";
  const [supply, lookAt] = useState(0);
  const shown = Math.min(supply, (plan?.supplies.length ?? 0) - 1);
  const path = plan?.supplies[shown]?.path ?? NO_PATH;
  const measured = useMemo(() => (reading ? runs.slice(0, 1).flatMap((run) => readingsOf(run, path)) : []), [reading, runs, path]);
  const looked = useMemo(() => ({ here: supply, look: lookAt }), [supply]);
  const notes = useNotes(measured);
  const stages = useMemo(() => withLog(wholeStages(plan), entries.length > 0 ? running : null), [plan, entries, running]);
  const run = runs.find((r) => r.id === runId);
  if (run) return <HandsMode run={run} others={runs.filter((r) => r.id !== run.id)} base={base} />;
  if (stage === "visit") return <Visit />;
  const Page = (beside ?? here)?.page ?? NeedStage;
  if (beside)
    return (
      <>
        <Keys base={base} stages={STAGE_NAMES} stage={helpOf(stage)} />
        <div className="flex-1 lg:grid lg:grid-cols-[10.25rem_1fr] print:block">
          <Rail base={base} words={stagePages()} lines={lines} runs={runs} isPlanned={plan !== null} />
          <div className="min-w-0 pb-28 lg:pb-0 print:pb-0">
            <JobHeader />
            <JobBypasses runs={runs} />
            <Guarded what={t`This page`} resetKeys={[stage, job]}>
              <Page />
            </Guarded>
          </div>
        </div>
      </>
    );
  return (
    <SupplyHereContext value={looked}>
      <Keys base={base} stages={STAGE_NAMES} stage={helpOf(stage)} />
      <div className="flex-1 lg:grid lg:grid-cols-[10.25rem_1fr] print:block">
        <Rail base={base} words={stagePages()} lines={lines} runs={runs} isPlanned={plan !== null} />
        <div className="min-w-0 pb-28 lg:pb-0 print:pb-0">
          <JobHeader />
          <FirstJob lines={lines} />
          {conflict ? <ConflictPanel theirs={conflict} /> : <NewsLine />}
          <ClosedLine />
          <Unreadable />
          {stage === "commissioning" ? null : <JobBypasses runs={runs} />}
          {plan ? <SupplyTabs plan={plan} shown={shown} look={lookAt} /> : null}
          {plan ? (
            <FuelPath base={base} path={path} ways={plan.supplies[shown]?.ways ?? NO_WAYS} readings={measured} notes={notes} />
          ) : (
            <div className="h-52 border-b-[1.5px] border-frame bg-sheet p-5">
              <Skeleton lines={3} />
            </div>
          )}
          {hasLittleRoom ? null : <AssumedLine base={base} />}
          <main>
            <h1 data-stage={here?.name} className="sr-only">
              {here?.word}
            </h1>
            <Guarded what={t`This stage`} resetKeys={[stage, job]}>
              <Page />
            </Guarded>
          </main>
          {hasLittleRoom ? <AssumedLine base={base} /> : null}
          <AnswerLine stage={stages.find((s) => s.stage === stage)} />
        </div>
      </div>
    </SupplyHereContext>
  );
}

/** Records of the job that the server cannot read: named, so that nobody counts on them. */
function Unreadable() {
  const { device } = useSurroundings();
  const { id } = useJobStore();
  const found = useLiveQuery(async () => (await device.db.jobs.get(id))?.unreadable ?? [], [device, id]) ?? [];
  if (found.length === 0) return null;
  return (
    <div className="px-5 py-2">
      <Message
        failed
        title={found.length === 1 ? t`1 record of this job cannot be read` : t`${found.length} records of this job cannot be read`}
      >
        <ul>
          {found.map((u) => (
            <li key={u.id}>
              {u.what} {u.id}: {u.why}
            </li>
          ))}
        </ul>
      </Message>
    </div>
  );
}

/** On a narrow screen the answers stand far below the fields: the first of them follow at the bottom edge. */
function AnswerLine({ stage }: { stage: Stage | undefined }) {
  const q = useQuantities();
  const isNarrow = useLittleRoom();
  const figures = (stage?.headlines ?? []).slice(0, 2).flatMap((key) => stage?.figures.find((f) => f.key === key) ?? []);
  if (!isNarrow || !stage || figures.length === 0) return null;
  return (
    <a
      data-testid="to-answers"
      href="#comes-to"
      aria-label={t`Go to the results`}
      className="no-print fixed inset-x-0 bottom-[3.3rem] [@media(max-height:559px)]:bottom-[2.1rem] z-10 flex items-center gap-3 border-t border-edge bg-sheet px-3 py-1.5 text-small"
    >
      {stage.worst ? <Mark level={stage.worst} size={14} /> : null}
      {figures.map((f) => (
        <span key={f.key} className="min-w-0 truncate">
          <b>{q.show(f.value, f.kind)}</b> {f.name}
        </span>
      ))}
    </a>
  );
}

const NO_PATH: PathNode[] = [];
const NO_WAYS: Way[] = [];

/** Every stage, the Supply stage with all that its supplies say. */
const wholeStages = (plan: Plan | null) =>
  (plan?.stages ?? []).map((s) => (s.stage === "supply" ? (together([s, ...(plan?.supplies ?? []).map((x) => x.stage)]) ?? s) : s));

/** The supplies by name, each with its worst sign; the path shows one at a time. */
function SupplyTabs({ plan, shown, look }: { plan: Plan; shown: number; look: (n: number) => void }) {
  if (plan.supplies.length < 2) return null;
  return (
    <nav data-testid="supplies" aria-label={t`Supplies`} className="no-print flex flex-wrap gap-x-1 bg-sheet px-5">
      {plan.supplies.map((s, n) => (
        <button
          key={s.id}
          type="button"
          aria-pressed={n === shown}
          onClick={() => look(n)}
          className={`flex min-h-9 items-center gap-1.5 border-b-4 px-2 font-medium ${n === shown ? "border-ember font-bold" : "border-transparent"}`}
        >
          {s.name || s.id}
          {s.worst && s.worst !== "good" ? <Mark level={s.worst} size={13} /> : null}
        </button>
      ))}
    </nav>
  );
}

type Measured = { node: string; pa: number; word: string }[];

/** Pressures read in a run, placed on the path. */
function readingsOf(run: Run | undefined, path: PathNode[]): Measured {
  const inlet = path.find((n) => n.kind === "appliance" && n.values["machine"] === run?.unit);
  if (!run || !inlet) return [];
  return run.state.steps.flatMap((s) => {
    const step = run.procedure.steps.find((p) => p.id === s.id);
    return (s.id === "running" || s.id === "standing") && "value" in s && s.value !== null && step
      ? [{ node: inlet.id, pa: s.value, word: step.title }]
      : [];
  });
}

function useNotes(measured: Measured): Record<string, string> {
  const q = useQuantities();
  return useMemo(() => {
    const words = new Map<string, string[]>();
    const { unit } = q.split(0, "gas_pressure");
    for (const m of measured) words.set(m.node, [...(words.get(m.node) ?? []), q.split(m.pa, "gas_pressure").number]);
    return Object.fromEntries([...words].map(([node, texts]) => [node, `${texts.join(" → ")} ${unit}`]));
  }, [q, measured]);
}

/** Once there is a log, Running speaks of the log rather than of the plan alone. */
const withLog = (stages: Stage[], running: Stage | null) =>
  running ? stages.map((s) => (s.stage === "running" ? running : s)) : stages;

/** Another stage begins at its top, unless the address names a place in it. */
function useFromTheTop(stage: string) {
  const { hash } = useLocation();
  useEffect(() => {
    if (!hash) globalThis.scrollTo(0, 0);
  }, [stage, hash]);
}

function useScrollToHash(ready: boolean) {
  const { hash } = useLocation();
  useEffect(() => {
    if (!ready || !hash) return;
    // A moment later: the browser takes the focus away when it follows a fragment itself.
    const timer = setTimeout(() => {
      const target = document.getElementById(hash.slice(1));
      target?.scrollIntoView({ block: "center" });
      target?.querySelector<HTMLElement>("input, select")?.focus();
    });
    return () => clearTimeout(timer);
  }, [hash, ready]);
}

const saveWords = (): Record<SaveState, string> => ({
  opening: t`Opening`,
  saved: t`Saved`,
  saving: t`Saving`,
  waiting: t`Saved on this device, not sent yet`,
  conflict: t`Two versions: choose one`,
  refused: t`Saved here: some values are not accepted`,
  full: t`Not saved: no room left`,
});

function JobHeader() {
  const store = useJobStore();
  const { document, planned, save, trouble, canUndo, drafts } = useJob();
  const hasLittleRoom = useLittleRoom();
  const refused = Object.keys(drafts).filter((path) => !/^(log|run|faults)\./.test(path)).length;
  const isCalm = hasLittleRoom && (save === "saved" || save === "saving") && refused === 0;
  return (
    <header
      className={`flex items-center gap-x-4 gap-y-1 border-b-[1.5px] border-frame px-5 ${isCalm ? "py-1" : "flex-wrap py-2"}`}
    >
      <Link data-testid="to-jobs" to="/" className="no-print text-muted underline">{t`Jobs`}</Link>
      <p className="min-w-0 text-lg leading-tight font-bold [font-stretch:106%]">{textAt(document, "name")}</p>
      {hasLittleRoom ? null : <p className="text-muted">{textAt(document, "note")}</p>}
      <div className={`ml-auto flex shrink-0 items-center gap-y-1 ${hasLittleRoom ? "gap-x-2" : "flex-wrap gap-x-4"}`}>
        <Button data-testid="help" look="quiet" aria-label={t`Open help`} onClick={() => showHelp(true)}>
          ?
        </Button>
        {canUndo ? <Button data-testid="undo" look="quiet" onClick={() => store.undo()}>{t`Undo`}</Button> : null}
        {hasLittleRoom ? null : <EngineMark />}
        <span
          role="status"
          data-save={save}
          data-plan={planned === document ? "answered" : "asked"}
          title={trouble}
          className="flex items-center gap-1.5"
        >
          <span
            className={`inline-block size-2.5 rounded-full ${save === "saved" && refused === 0 ? "bg-good" : save === "saved" || save === "saving" || save === "waiting" || save === "opening" ? "bg-caution" : "bg-stop"}`}
          />
          {saveWords()[save]}
          {refused > 0 ? (
            <b className="font-semibold text-stop">
              · {refused === 1 ? t`1 field is not used` : t`${refused} fields are not used`}
            </b>
          ) : null}
        </span>
        {hasLittleRoom ? (
          <Popover className="no-print">
            <PopoverButton className="min-h-7 px-1 text-muted underline">{t`Display`}</PopoverButton>
            <PopoverPanel anchor="bottom end" className="z-30 rounded-sm border border-edge bg-card p-3">
              <Preferences />
            </PopoverPanel>
          </Popover>
        ) : (
          <Preferences />
        )}
      </div>
      {save === "full" ? <SaveToFile /> : null}
      {trouble && save !== "saved" ? <p className="w-full text-small text-ember-ink">{trouble}</p> : null}
    </header>
  );
}

const engineWords = () => ({
  starting: t`Results come from the server while this device gets ready`,
  up: t`Results are worked out on this device`,
  down: t`Results come from the server, because this device cannot work them out`,
});

/** A small sign of where answers come from; filled once this device makes them itself. */
function EngineMark() {
  const state = useSyncExternalStore(engine().subscribe, engine().get);
  return (
    <span role="img" data-engine={state} title={engineWords()[state]} aria-label={engineWords()[state]}>
      <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true" className="stroke-muted" fill="none" strokeWidth="1.4">
        <rect
          x="3.5"
          y="1"
          width="7"
          height="12"
          rx="1.5"
          className={state === "up" ? "fill-muted" : ""}
          strokeDasharray={state === "down" ? "2 2" : undefined}
        />
      </svg>
    </span>
  );
}

/** The way out when nothing more can be kept: the job as it stands on the screen. */
function SaveToFile() {
  const { device } = useSurroundings();
  const { document } = useJob();
  const { id } = useJobStore();
  const save = () => void saveJob(device, id, document);
  return <Button data-testid="save-job" look="act" onClick={save}>{t`Save this job to a file`}</Button>;
}
