import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { type Level, type MachineState, type PlacedMachine, type Run, type StepState } from "../../api/client";
import { AssumedBefore } from "../../jobs/AssumedLine";
import { moment, useQuantities, useSurroundings } from "../../app/context";
import { useJob, useJobStore, useRecords, useStage } from "../../job/context";
import { StagePart } from "../../ui/answers";
import { Button, Message, Skeleton, StageLink } from "../../ui/controls";
import { Mark } from "../../ui/Mark";
import { OpenBypasses } from "./BypassLedger";
import { JobBypasses } from "./JobBypasses";
import { Gates } from "./Gates";
import { sayOf } from "./said";
import { screenOf } from "./steps/screens";
import { jointWords } from "./steps/Test";
import { useBegin } from "./useBegin";
import { refusedWords, useRun } from "./useRun";

/** Guided commissioning, machine by machine: its steps, joints and gates. */
export function CommissioningStage() {
  const { jobId = "" } = useParams();
  const { plan } = useJob();
  const { runs, machines: stands, isKnown } = useRecords();
  const [chosen, choose] = useState<string | null>(null);
  // Runs come newest first; a machine that left the job keeps its runs.
  const machines: MachineProps["machine"][] = [
    ...(plan?.machines ?? []),
    ...runs
      .filter((r) => !plan?.machines.some((m) => m.id === r.unit))
      .map((r) => ({ id: r.unit, name: r.procedure.unit_name, procedure: null, offered: [] })),
  ];
  const whole = runs.filter((r) => r.procedure.purpose === "commission");
  const newest = (id: string) => whole.find((r) => r.unit === id);
  const open = machines.find((m) => newest(m.id) && !newest(m.id)?.signed);
  const looked = chosen ?? open?.id ?? machines.find((m) => newest(m.id))?.id ?? null;
  const run = looked === null ? undefined : newest(looked);
  return (
    <StagePart
      given={
        <>
          <JobBypasses runs={runs.filter((r) => r !== run)} />
          <p className="flex flex-wrap gap-x-5 pb-2">
            <Link className="underline" to={`/jobs/${jobId}/kit`}>{t`Kit list`}</Link>
          </p>
          <ul data-testid="machines" className="pb-3" aria-label={t`Machines`}>
            {machines.map((m) => (
              <Machine
                key={m.id}
                machine={m}
                run={newest(m.id)}
                signed={whole.filter((r) => r.unit === m.id && r.signed)}
                others={runs.filter((r) => r.unit === m.id && r.procedure.purpose !== "commission")}
                stands={stands.find((s) => s.machine === m.id)}
                looked={m.id === looked && machines.length > 1}
                look={() => choose(m.id)}
                several={machines.length > 1}
              />
            ))}
          </ul>
          {run ? (
            <Steps run={run} />
          ) : !isKnown ? (
            <Skeleton lines={2} />
          ) : machines.length === 0 ? (
            <Message title={t`No machine to commission yet`}>
              {t`Each machine of the job is commissioned step by step. Choose the machines first.`}
              <StageLink to="equipment">{t`Choose machines`}</StageLink>
            </Message>
          ) : (
            <Message
              title={t`Commissioning has not started`}
            >{t`Work through it step by step, with the limits of this plan. It also works on a phone, with one hand.`}</Message>
          )}
        </>
      }
      stage={useStage("commissioning")}
      above={run ? <Sign run={run} stands={stands.find((s) => s.machine === run.unit)} /> : null}
    />
  );
}

interface MachineProps {
  machine: Pick<PlacedMachine, "id" | "name" | "procedure" | "offered">;
  run: Run | undefined;
  /** Its signed runs, newest first. */
  signed: Run[];
  /** Runs of its short procedures, newest first. */
  others: Run[];
  stands: MachineState | undefined;
  /** Whether its run is the one shown. */
  looked: boolean;
  look: () => void;
  several: boolean;
}

/** One machine: where its commissioning stands, and the next thing to do. */
function Machine({ machine, run, signed, others, stands, looked, look, several }: MachineProps) {
  const { jobId = "" } = useParams();
  const { begin, trouble } = useBegin(machine.id);
  const { isKnown } = useRecords();
  const { device } = useSurroundings();
  const stale = stands?.stale.length ?? 0;
  const words = run
    ? run.signed
      ? stale > 0
        ? t`signed off, ${stale} to test again since`
        : t`signed off`
      : t`${run.gates.length} items block the sign-off`
    : machine.procedure === null
      ? t`no procedure here, follow the maker’s instructions`
      : isKnown
        ? t`not started`
        : "loading";
  return (
    <li
      className={`flex flex-wrap items-center gap-3 py-1 ${several ? "border-b border-rule" : ""} ${looked ? "border-l-4 border-l-ember pl-2" : ""}`}
    >
      {several ? (
        <button type="button" onClick={look} className="min-w-0 flex-1 text-left">
          <span className="flex items-center gap-2 font-semibold">
            <Mark level={stale > 0 ? "stop" : run?.signed ? "good" : run ? "caution" : "not_checked"} size={15} silent />
            {machine.name} <span className="whitespace-nowrap font-normal text-muted">{machine.id}</span>
          </span>
          <span className="block text-small text-muted">{words}</span>
        </button>
      ) : null}
      {run && !run.signed ? (
        <Link
          to={`/jobs/${jobId}/commissioning/${run.id}`}
          className="inline-flex min-h-12 items-center rounded-sm bg-ember px-4 font-semibold text-on-ember"
        >
          {run.state.current ? t`Continue with the next step` : t`Review and sign off`}
          {several ? <span className="sr-only">: {machine.name}</span> : null}
        </Link>
      ) : null}
      {machine.procedure !== null && stale > 0 && run?.signed ? (
        <Button data-testid="test-again" look="act" onClick={() => void begin([...signed].reverse().map((r) => r.procedure))}>
          <Trans>
            Test again what changed
            {several ? <span className="sr-only">: {machine.name}</span> : null}
          </Trans>
        </Button>
      ) : null}
      {trouble ? (
        <p role="alert" className="w-full text-small text-stop">
          {trouble}
        </p>
      ) : null}
      {run?.refusal ? (
        <div data-testid="sign-off-refused" className="w-full">
          <Message failed title={refusedWords(run)}>
            <Button data-testid="refusal-read" onClick={() => void device.refusalRead(run.id)}>{t`Dismiss this message`}</Button>
          </Message>
        </div>
      ) : null}
      {machine.procedure === null ? null : (
        <Button data-testid="begin" disabled={!isKnown} look={run ? "plain" : "act"} onClick={() => void begin()}>
          {several ? (run ? t`Start again` : t`Start`) : `${run ? t`Start again: ` : t`Start commissioning: `}${machine.name}`}
          {several ? (
            <span className="sr-only">
              : {machine.name} {machine.id}
            </span>
          ) : null}
        </Button>
      )}
      <span className="flex w-full flex-wrap gap-x-5 text-small">
        <Link className="underline" to={`/jobs/${jobId}/unit/${machine.id}`}>
          <Trans>
            Cards and instructions<span className="sr-only">: {machine.name}</span>
          </Trans>
        </Link>
        <Link className="underline" to={`/jobs/${jobId}/faults/${machine.id}`}>
          <Trans>
            Fault finder<span className="sr-only">: {machine.name}</span>
          </Trans>
        </Link>
      </span>
      <Others machine={machine} runs={others} begin={(key) => void begin(null, key)} />
    </li>
  );
}

const purposes = (): Record<PlacedMachine["offered"][number]["purpose"], string> => ({
  commission: t`Commission by another method`,
  delivery: t`Receive delivery`,
  convert: t`Convert`,
  switch: t`Switch fuel while it runs`,
  start: t`Start`,
  stop: t`Stop`,
  change_over: t`Change over`,
  transport: t`Transport`,
  store: t`Store`,
  yearly: t`Once a year`,
  safety_test: t`Safety test`,
});

interface OthersProps {
  machine: MachineProps["machine"];
  runs: Run[];
  begin: (key: string) => void;
}

/** The short procedures of a machine: begin one, go on with one. */
function Others({ machine, runs, begin }: OthersProps) {
  const [key, setKey] = useState("");
  const others = machine.offered.filter((o) => o.key !== machine.procedure);
  const going = runs.filter((r) => !r.signed);
  if (others.length === 0 && going.length === 0) return null;
  return (
    <div className="grid w-full grid-cols-[minmax(0,1fr)] gap-2 pt-1">
      {going.map((r) => (
        <Link
          key={r.id}
          to={`/jobs/${r.job}/commissioning/${r.id}`}
          className="flex min-h-10 items-center gap-2 text-small underline"
        >
          <Mark level={r.state.bypasses.some((b) => b.closed_at === null) ? "stop" : "caution"} size={15} silent />
          {r.procedure.title}: {r.gates.length === 0 ? t`every step is done` : t`${r.gates.length} open`}
        </Link>
      ))}
      {others.length === 0 ? null : (
        <div className="flex flex-wrap items-center gap-2">
          <select
            data-testid="other-procedure"
            aria-label={t`Another procedure for ${machine.name}`}
            value={key}
            onChange={(e) => setKey(e.target.value)}
            className="min-h-9 w-0 min-w-0 flex-1 rounded-sm border border-edge bg-card px-2"
          >
            <option value="">{t`Other procedures`}</option>
            {others.map((o) => (
              <option key={o.key} value={o.key}>
                {purposes()[o.purpose]}: {o.title}
                {o.school ? ` (${o.school})` : ""}
              </option>
            ))}
          </select>
          <Button data-testid="begin-other" disabled={key === ""} onClick={() => begin(key)}>{t`Start it`}</Button>
        </div>
      )}
    </div>
  );
}

const STEP_MARKS: Record<StepState["status"], Level> = {
  open: "not_checked",
  holding: "caution",
  failed: "stop",
  done: "good",
  skipped: "note",
  idle: "note",
  stale: "stop",
};

function Steps({ run }: { run: Run }) {
  const q = useQuantities();
  return (
    <ol>
      {run.waiting > 0 ? (
        <li className="py-1 text-small text-ember-ink">
          <Trans>{run.waiting === 1 ? t`1 record is` : t`${run.waiting} records are`} on this device only.</Trans>
        </li>
      ) : null}
      {run.procedure.steps.map((step, n) => {
        const state = run.state.steps[n];
        if (!state) return null;
        if (state.status === "idle") return null;
        const screen = screenOf(step.kind);
        return (
          <li key={step.id} className="grid grid-cols-[1.4rem_1fr_auto] items-start gap-2 border-b border-hair py-1.5">
            <Mark level={STEP_MARKS[state.status ?? "open"]} />
            <span>
              {n + 1}. {sayOf(step, q)(step.title)}
              {state.say ? (
                <span className={`block text-small ${state.status === "skipped" ? "text-ink-2" : "text-stop"}`}>{state.say}</span>
              ) : null}
              {state.at && state.by ? (
                <span className="block text-tiny text-muted">
                  {state.by}, {moment(state.at, "short")}
                </span>
              ) : null}
            </span>
            <span className="text-right">
              {screen.told?.(step, state, q)}
              <span className="block text-tiny text-muted">{screen.allowed?.(step, q)}</span>
            </span>
          </li>
        );
      })}
    </ol>
  );
}

function Sign({ run, stands }: { run: Run; stands: MachineState | undefined }) {
  const q = useQuantities();
  const recording = useRun(run);
  const lead = useJobStore().role === "lead";
  return (
    <section data-testid="sign-off" aria-label={t`Sign-off`} className="mb-4 rounded-sm border-[1.5px] border-frame bg-card p-3">
      <h3 className="pb-2 font-semibold">{run.procedure.unit_name}</h3>
      <OpenBypasses run={run} recording={recording} />
      {stands && stands.stale.length > 0 ? (
        <div data-testid="stale" role="alert" aria-label={t`Changed since the sign-off`} className="pb-2">
          <p className="flex items-center gap-2 font-semibold text-ember-ink">
            <Trans>
              <Mark level="stop" silent /> The job was changed after the sign-off. It no longer covers these
            </Trans>
          </p>
          <ul className="pl-6 text-small">
            {stands.stale.map((s) => (
              <li key={s.subject} data-stale={s.subject} className="border-t border-hair py-0.5">
                <b className="font-medium">{s.name}</b>: {q.say(s.say, s.values)}
              </li>
            ))}
          </ul>
        </div>
      ) : null}
      {run.signed ? (
        <p className="flex items-center gap-2 font-semibold">
          <Trans>
            <Mark level={stands && stands.stale.length > 0 ? "stop" : "good"} silent /> Signed off by {run.signed.by},{" "}
            {moment(run.signed.at)}
            {run.signedHere ? <span className="font-normal text-ember-ink">{t`on this device only`}</span> : null}
            {run.signed.seal ? (
              <span className="font-normal text-muted">
                <Trans>seal {run.signed.seal.slice(0, 12)}</Trans>
              </span>
            ) : null}
          </Trans>
        </p>
      ) : (
        <>
          <Gates run={run} />
          <AssumedBefore base={`/jobs/${run.job}`} />
          <div className="pt-3">
            <Button
              data-testid="sign"
              look={run.gates.length === 0 ? "act" : "plain"}
              disabled={run.gates.length > 0 || !lead}
              onClick={() => void recording.signOff()}
            >{t`Sign off`}</Button>
            {lead ? null : <p className="pt-1 text-small text-ink-2">{t`A lead of the team signs off.`}</p>}
          </div>
          {recording.trouble ? (
            <p role="alert" className="pt-2 text-stop">
              {recording.trouble}
            </p>
          ) : null}
        </>
      )}
      <h3 className="pt-3 font-semibold">{t`Joints`}</h3>
      <ul className="grid gap-x-6 md:grid-cols-2">
        {run.state.joints.map((j) => (
          <li key={j.id} className="flex items-center gap-2 py-0.5 text-small">
            <Mark
              size={14}
              level={j.status === "tight" ? "good" : j.status === "not_tested" || j.status === "too_early" ? "not_checked" : "stop"}
            />
            {j.name}
            <span className="ml-auto shrink-0 text-muted">
              {jointWords()[j.status]}
              {j.method ? `, ${j.method}` : ""}
              {j.by ? `, ${j.by}` : ""}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
