// At the unit with one hand: one step at a time, the next action always at the same spot.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect, useState } from "react";
import { Link, useSearchParams } from "react-router";
import type { Run, Step, StepState } from "../../api/client";
import { AssumedBefore } from "../../jobs/AssumedLine";
import { moment, useQuantities, useSurroundings } from "../../app/context";
import { useJobStore, useRecords } from "../../job/context";
import { fetchJob } from "../../outbox/copy";
import { Button } from "../../ui/controls";
import { Guarded } from "../../ui/Guarded";
import { Mark } from "../../ui/Mark";
import { OpenBypasses } from "./BypassLedger";
import { Gates } from "./Gates";
import { Help } from "./Help";
import { JobBypasses } from "./JobBypasses";
import { LeaveDialog } from "./LeaveDialog";
import { stillOpen } from "./open";
import { Progress } from "./Progress";
import { isOver, sayOf } from "./said";
import { screenOf } from "./steps/screens";
import { useRun } from "./useRun";

interface HandsModeProps {
  run: Run;
  /** The other runs of the job. */
  others: Run[];
  /** Address of the job. */
  base: string;
}

type Recording = ReturnType<typeof useRun>;

export function HandsMode({ run, others, base }: HandsModeProps) {
  const recording = useRun(run);
  const guest = useJobStore().role === "guest";
  const [asked] = useSearchParams();
  const [wanted, look] = useState(asked.get("step"));
  const [leaving, setLeaving] = useState(false);
  const { steps } = run.procedure;
  const looking = steps.some((s) => s.id === wanted) ? wanted : null;
  const id = looking ?? run.state.current;
  const index = steps.findIndex((s) => s.id === id);
  const step = steps[index];
  const state = run.state.steps[index];
  const open = run.state.bypasses.some((b) => b.closed_at === null);
  useGuard(open, () => setLeaving(true));
  useOthers(run.job);
  useEntryOf(run, guest);
  const leave = `${base}/commissioning`;
  return (
    <div className="mx-auto flex w-full max-w-xl flex-1 flex-col text-[1.0625rem]">
      <header className="flex items-center gap-3 border-b-[1.5px] border-frame bg-rail px-4 py-2.5">
        <Link
          data-testid="leave"
          to={leave}
          className="min-h-12 content-center pr-2 underline"
          aria-label={t`Leave hands mode`}
          onClick={(e) => {
            if (!open && (run.signed !== null || stillOpen(run).length === 0)) return;
            e.preventDefault();
            setLeaving(true);
          }}
        >{t`Leave`}</Link>
        <p className="min-w-0 text-base font-bold leading-tight">{run.procedure.unit_name}</p>
        <p className="ml-auto whitespace-nowrap text-body text-muted">
          {step ? t`step ${index + 1} of ${steps.length}` : t`all steps done`} ·{" "}
          <span data-waiting={run.waiting}>{run.waiting > 0 ? t`${run.waiting} on this device only` : t`sent`}</span>
        </p>
      </header>
      <Progress run={run} current={id} look={look} />
      <OpenBypasses run={run} recording={recording} />
      <JobBypasses runs={others} />
      <LeaveDialog asked={leaving} run={run} recording={recording} stay={() => setLeaving(false)} leave={leave} />
      {guest ? <p className="px-4 pt-3 text-ink-2">{t`You are a guest in this team. You can read, but not change.`}</p> : null}
      <fieldset disabled={guest} className="contents">
        {step && state ? (
          <Guarded what={t`This step`} resetKeys={[step.id, state.at]}>
            <StepScreen
              key={step.id + (state.at ?? "")}
              run={run}
              step={step}
              state={state}
              recording={recording}
              next={() => look(isReady(run, step) ? null : step.id)}
              stay={() => look(step.id)}
            />
          </Guarded>
        ) : (
          <Finish run={run} recording={recording} look={look} />
        )}
      </fieldset>
    </div>
  );
}

/** A run that makes a log entry once it is done makes it once: the entry has the run's own id. */
function useEntryOf(run: Run, guest: boolean) {
  const { device, sender, person } = useSurroundings();
  const { entries } = useRecords();
  const made = entries.some((e) => e.id === run.id);
  useEffect(() => {
    if (!run.entry || made || guest) return;
    const body = { ...run.entry, id: run.id, run: run.id, at: String(run.entry["at"]), by: person.name };
    void device.recordEntries(run.job, [body]).then(
      () => sender.wake(),
      () => undefined,
    );
    // oxlint-disable-next-line react-hooks/exhaustive-deps -- once for a run, when it is done
  }, [run.id, run.entry !== null, made, guest]);
}

const OTHERS_MS = 15_000;

/** Fetch now and then what others have done at the same run; without signal it waits for the next time. */
function useOthers(job: string) {
  const { device } = useSurroundings();
  useEffect(() => {
    const look = async () => {
      if (document.visibilityState !== "visible" || !navigator.onLine) return;
      await fetchJob(device, job);
    };
    const timer = setInterval(() => void look().catch(() => undefined), OTHERS_MS);
    return () => clearInterval(timer);
  }, [device, job]);
}

/** Ask once before the page is left with a bypass open: by the browser's own back, by closing, by a reload. */
function useGuard(open: boolean, ask: () => void) {
  useEffect(() => {
    if (!open) return;
    // The first step back stays here and asks; the next one leaves.
    history.pushState(history.state, "", location.href);
    const unload = (e: BeforeUnloadEvent) => e.preventDefault();
    globalThis.addEventListener("popstate", ask, { once: true });
    globalThis.addEventListener("beforeunload", unload);
    return () => {
      globalThis.removeEventListener("popstate", ask);
      globalThis.removeEventListener("beforeunload", unload);
    };
    // oxlint-disable-next-line react-hooks/exhaustive-deps -- asked once for each time a bypass opens, whoever draws it anew
  }, [open]);
}

/** Whether what a step needs is done: pressed too early it stays and says why. */
const isReady = (run: Run, step: Step) => step.needs.every((need) => isOver(run.state.steps.find((s) => s.id === need)));

interface ScreenProps {
  run: Run;
  step: Step;
  state: StepState;
  recording: Recording;
  next: () => void;
  stay: () => void;
}

function StepScreen(props: ScreenProps) {
  const { run, step, state, recording } = props;
  const q = useQuantities();
  const [help, setHelp] = useState(false);
  const { Body, word } = screenOf(step.kind);
  const say = sayOf(step, q);
  return (
    <main className="flex flex-1 flex-col">
      <Beside run={run} step={step} />
      <div className="px-4 pt-4">
        <p className="text-base text-muted">{word()}</p>
        <h1 className="mb-2 mt-0.5 text-[1.5625rem] font-bold leading-tight">{say(step.title)}</h1>
        <p className="mb-2 text-ink-2">{say(step.say)}</p>
        {step.caution ? (
          <p className="mb-2 flex gap-2.5 border-l-4 border-caution bg-card py-2 pl-3">
            <Mark level="caution" size={22} />
            <span className="font-medium">{say(step.caution)}</span>
          </p>
        ) : null}
        {state.say ? (
          <p role="alert" className="flex gap-2.5 py-2">
            <Mark level={state.status === "skipped" ? "note" : "stop"} size={24} />
            <span>
              {state.status === "skipped" ? <b>{t`Skipped: `}</b> : null}
              {"as_typed" in state && state.as_typed && state.status === "failed" ? (
                <b>
                  <Trans>{state.as_typed} is out of limits. </Trans>
                </b>
              ) : null}
              {state.say}
            </span>
          </p>
        ) : null}
        {recording.trouble ? (
          <p role="alert" className="py-2 text-stop">
            {recording.trouble}
          </p>
        ) : null}
        {state.status === "failed" ? (
          <p className="pb-2">
            <Link
              data-testid="what-could-it-be"
              className="inline-flex min-h-10 items-center underline decoration-ember decoration-2 underline-offset-3"
              to={`/jobs/${run.job}/faults/${run.unit}?run=${run.id}&step=${step.id}`}
            >{t`What is the cause?`}</Link>
          </p>
        ) : null}
        {help ? <Help run={run} step={step} recording={recording} close={() => setHelp(false)} /> : null}
        {state.status === "done" ? (
          <p className="flex items-center gap-2 py-1 text-good">
            <Trans>
              <Mark level="good" silent /> Done{"as_typed" in state && state.as_typed ? `: ${state.as_typed}` : ""}
              {state.at ? (
                <span className="text-muted">{[state.by, moment(state.at, "short")].filter(Boolean).join(", ")}</span>
              ) : null}
            </Trans>
          </p>
        ) : null}
      </div>
      <Guarded
        what={t`This step`}
        resetKeys={[step.id, state.at]}
        beside={<Button look="quiet" onClick={() => setHelp(!help)}>{t`Help`}</Button>}
      >
        <Body {...props} say={say} help={() => setHelp(!help)} />
      </Guarded>
    </main>
  );
}

/** What was read last, and what comes next. */
function Beside({ run, step }: { run: Run; step: Step }) {
  const q = useQuantities();
  const { steps } = run.procedure;
  const at = steps.indexOf(step);
  const done = steps.flatMap((s, n) => {
    const state = run.state.steps[n];
    const text = state?.status === "done" ? screenOf(s.kind).told?.(s, state, q) : "";
    return text && state?.at ? [{ title: sayOf(s, q)(s.title), text, at: state.at }] : [];
  });
  const last = done.sort((a, b) => a.at.localeCompare(b.at)).at(-1);
  const next = steps.find((_, n) => n > at && !isOver(run.state.steps[n]));
  if (!last && !next) return null;
  return (
    <p className="grid grid-cols-2 gap-3 border-b border-rule bg-sheet px-4 py-1.5 text-small text-muted">
      <span className="truncate">{last ? t`Last: ${last.title}, ${last.text}` : ""}</span>
      <span className="truncate text-right">{next ? t`Next: ${sayOf(next, q)(next.title)}` : ""}</span>
    </p>
  );
}

/** The log entry a run has made. */
function Logged({ run }: { run: Run }) {
  const q = useQuantities();
  const [out, into] = [run.entry?.["out_kg"], run.entry?.["value"]];
  return (
    <p className="flex items-center gap-2 pb-3 text-good">
      <Trans>
        <Mark level="good" silent /> Logged: changed over{typeof out === "number" ? t`, ${q.show(out, "mass")} out` : ""}
        {typeof into === "number" ? t`, ${q.show(into, "mass")} in` : ""}.
      </Trans>
    </p>
  );
}

interface FinishProps {
  run: Run;
  recording: Recording;
  /** Go to a step. */
  look: (step: string) => void;
}

function Finish({ run, recording, look }: FinishProps) {
  const lead = useJobStore().role === "lead";
  const short = run.procedure.purpose !== "commission";
  return (
    <>
      <main className="flex-1 px-4 pt-4">
        <h1 data-testid={run.signed ? "signed-off" : "all-done"} className="mb-2 text-[1.5625rem] font-bold leading-tight">
          {run.signed ? t`Signed off` : t`Every step is done`}
        </h1>
        {run.signed ? (
          <>
            <p>
              <Trans>
                By {run.signed.by}, {moment(run.signed.at)}.{" "}
                {run.signedHere ? t`On this device only. The server seals it when there is signal.` : t`The record is sealed.`}
              </Trans>
            </p>
            {run.signed.seal ? (
              <p className="pt-2 text-body text-muted">
                <Trans>
                  Seal <span className="font-mono">{run.signed.seal.slice(0, 16)}</span>. Any later change of a record would show.
                </Trans>
              </p>
            ) : null}
          </>
        ) : (
          <>
            {run.entry ? <Logged run={run} /> : null}
            <Gates run={run} look={look} />
            {short ? null : <AssumedBefore base={`/jobs/${run.job}`} />}
          </>
        )}
        {recording.trouble ? (
          <p role="alert" className="pt-3 font-semibold text-stop">
            {recording.trouble}
          </p>
        ) : null}
      </main>
      {run.signed ? null : (
        <footer className="sticky bottom-0 grid border-t-[1.5px] border-frame bg-rail px-4 pb-5 pt-3">
          {lead ? null : <p className="pb-2">{t`A lead of the team signs off.`}</p>}
          <Button
            data-testid="sign"
            large
            look="act"
            disabled={run.gates.length > 0 || !lead}
            onClick={() => void recording.signOff()}
          >{t`Sign off`}</Button>
        </footer>
      )}
    </>
  );
}
