// Commissioning with one hand: one step at a time, the next action always at the same spot.
import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Run, Step, StepState } from "../../api/client";
import { AssumedBefore } from "../../app/AssumedLine";
import { moment } from "../../app/context";
import { useJobStore } from "../../job/context";
import { Button } from "../../ui/controls";
import { Mark } from "../../ui/Mark";
import { BypassLedger, OpenBypasses } from "./BypassLedger";
import { Gates } from "./Gates";
import { screenOf } from "./steps/screens";
import { useRun } from "./useRun";

interface HandsModeProps {
  run: Run;
  /** Address of the job. */
  base: string;
}

type Recording = ReturnType<typeof useRun>;

export function HandsMode({ run, base }: HandsModeProps) {
  const recording = useRun(run);
  const guest = useJobStore().role === "guest";
  const [looking, setLooking] = useState<string | null>(null);
  const [leaving, setLeaving] = useState(false);
  const { steps } = run.procedure;
  const id = looking ?? run.state.current;
  const index = steps.findIndex((s) => s.id === id);
  const step = steps[index];
  const state = run.state.steps[index];
  const leave = `${base}/commissioning`;
  return (
    <div className="mx-auto flex w-full max-w-xl flex-1 flex-col text-[1.0625rem]">
      <header className="flex items-center gap-3 border-b-[1.5px] border-frame bg-rail px-4 py-2.5">
        <Link
          to={leave}
          className="min-h-12 content-center pr-2 underline"
          aria-label="Leave hands mode"
          onClick={(e) => {
            if (!run.state.bypasses.some((b) => b.closed_at === null)) return;
            e.preventDefault();
            setLeaving(true);
          }}
        >
          Leave
        </Link>
        <p className="text-base font-bold">{run.procedure.unit_name}</p>
        <p className="ml-auto whitespace-nowrap text-body text-muted">
          {step ? `step ${index + 1} of ${steps.length}` : "all steps done"} · {run.waiting > 0 ? `${run.waiting} here only` : "sent"}
        </p>
      </header>
      <Progress run={run} current={id} look={setLooking} />
      <OpenBypasses run={run} recording={recording} />
      <LeaveDialog asked={leaving} run={run} recording={recording} stay={() => setLeaving(false)} leave={leave} />
      {guest ? <p className="px-4 pt-3 text-ink-2">You are a guest in this team: you may read, not change.</p> : null}
      <fieldset disabled={guest} className="contents">
      {step && state ? (
        <StepScreen key={step.id + (state.at ?? "")} run={run} step={step} state={state} recording={recording} next={() => setLooking(isReady(run, step) ? null : step.id)} />
      ) : (
        <Finish run={run} recording={recording} />
      )}
      </fieldset>
    </div>
  );
}

const PLACES: { node: string; word: string }[] = [
  { node: "storage", word: "Vessels" },
  { node: "regulator", word: "Regulators" },
  { node: "line", word: "Line" },
  { node: "appliance", word: "Heater" },
  { node: "space", word: "Space" },
];

/** Where on the path this step is, and which places are done. */
function Progress({ run, current, look }: { run: Run; current: string | null; look: (id: string) => void }) {
  const { steps } = run.procedure;
  const here = steps.find((s) => s.id === current)?.node;
  const doneAt = (node: string) => steps.every((s, n) => s.node !== node || run.state.steps[n]?.status === "done");
  const done = run.state.steps.filter((s) => s.status === "done").length;
  return (
    <nav aria-label="Steps" className="border-b-[1.5px] border-frame bg-sheet px-4 py-2">
      <div className="relative">
        <span aria-hidden="true" className="absolute inset-x-6 top-[9px] h-1 bg-gas" />
        <ol className="relative flex justify-between">
          {PLACES.map((p) => (
            <li key={p.node} className="flex w-18 flex-col items-center gap-0.5">
              <span className={`size-[22px] rounded-full ${p.node === here ? "border-4 border-ember bg-card" : doneAt(p.node) ? "border-2 border-good bg-good" : "border-2 border-dashed border-edge bg-card"}`} />
              <span className={`text-small ${p.node === here ? "font-bold text-ember-ink" : "text-ink-2"}`}>{p.word}</span>
            </li>
          ))}
        </ol>
      </div>
      <progress className="my-1 block h-1.5 w-full appearance-none [&::-moz-progress-bar]:bg-good [&::-webkit-progress-bar]:bg-rule [&::-webkit-progress-value]:bg-good" max={steps.length} value={done} aria-label="Steps done" />
      <label className="flex items-center gap-2 text-body text-muted">
        <span className="shrink-0">Go to</span>
        <select value={current ?? ""} onChange={(e) => look(e.target.value)} className="min-h-12 w-full rounded-sm border border-edge bg-card px-2 text-ink">
          {current === null ? <option value="">all steps done</option> : null}
          {steps.map((s, n) => (
            <option key={s.id} value={s.id}>
              {n + 1}. {s.title} ({run.state.steps[n]?.status})
            </option>
          ))}
        </select>
      </label>
    </nav>
  );
}

/** Whether what a step needs is done: pressed too early it stays and says why. */
const isReady = (run: Run, step: Step) => step.needs.every((need) => run.state.steps.find((s) => s.id === need)?.status === "done");

interface LeaveProps {
  asked: boolean;
  run: Run;
  recording: Recording;
  stay: () => void;
  /** Address to go to. */
  leave: string;
}

/** Nobody leaves a unit with a bypass open without having said that it is shut down. */
function LeaveDialog({ asked, run, recording, stay, leave }: LeaveProps) {
  const navigate = useNavigate();
  const open = run.state.bypasses.some((b) => b.closed_at === null);
  const go = async () => {
    if (open) await recording.record("remark", { text: "Left with a bypass open; the burner is off and the gas is shut at the unit." });
    await navigate(leave);
  };
  return (
    <Dialog open={asked} onClose={stay} className="relative z-40">
      <div className="fixed inset-0 bg-ink/50" aria-hidden="true" />
      <div className="fixed inset-0 grid place-items-end sm:place-items-center">
        <DialogPanel className="w-full max-w-lg border-t-[1.5px] border-frame bg-card p-4 sm:border-[1.5px]">
          <DialogTitle className="pb-2 text-[1.3rem] font-bold">{open ? "A bypass is open" : "Every bypass is closed"}</DialogTitle>
          {open ? <p className="pb-2">A unit is never left burning while a guard is bridged. Close the bypass, or shut the burner and its gas first.</p> : null}
          <OpenBypasses run={run} recording={recording} />
          <div className="grid gap-2 pt-3">
            <Button large look="act" onClick={stay}>
              Stay at the unit
            </Button>
            <Button large onClick={() => void go()}>
              {open ? "Burner is off, gas is shut at the unit: leave" : "Leave"}
            </Button>
          </div>
        </DialogPanel>
      </div>
    </Dialog>
  );
}

interface ScreenProps {
  run: Run;
  step: Step;
  state: StepState;
  recording: Recording;
  next: () => void;
}

function StepScreen(props: ScreenProps) {
  const { run, step, state, recording } = props;
  const [help, setHelp] = useState(false);
  const { Body, word } = screenOf(step.kind);
  return (
    <main className="flex flex-1 flex-col">
      <div className="flex-1 px-4 pt-4">
        <p className="text-base text-muted">{word}</p>
        <h1 className="mb-2 mt-0.5 text-[1.5625rem] font-bold leading-tight">{step.title}</h1>
        <p className="mb-2 text-ink-2">{step.say}</p>
        {step.caution ? (
          <p className="mb-2 flex gap-2.5 border-l-4 border-caution bg-card py-2 pl-3">
            <Mark level="caution" size={22} />
            <span className="font-medium">{step.caution}</span>
          </p>
        ) : null}
        {state.say ? (
          <p role="alert" className="flex gap-2.5 py-2">
            <Mark level="stop" size={24} />
            <span>
              {"as_typed" in state && state.as_typed ? <b>{state.as_typed} is out of limits. </b> : null}
              {state.say}
            </span>
          </p>
        ) : null}
        {recording.trouble ? (
          <p role="alert" className="py-2 text-stop">
            {recording.trouble}
          </p>
        ) : null}
        {help ? <BypassLedger run={run} recording={recording} /> : null}
        {state.status === "done" ? <p className="flex items-center gap-2 py-1 text-good"><Mark level="good" silent /> Done{"as_typed" in state && state.as_typed ? `: ${state.as_typed}` : ""}</p> : null}
      </div>
      <Body {...props} help={() => setHelp(!help)} />
    </main>
  );
}


function Finish({ run, recording }: { run: Run; recording: Recording }) {
  const lead = useJobStore().role === "lead";
  return (
    <>
      <main className="flex-1 px-4 pt-4">
        <h1 className="mb-2 text-[1.5625rem] font-bold leading-tight">{run.signed ? "Signed off" : "Every step is done"}</h1>
        {run.signed ? (
          <p>
            By {run.signed.by}, {moment(run.signed.at)}. {run.signedHere ? "On this device only: the server seals it when there is signal." : "The record is sealed."}
          </p>
        ) : (
          <>
            <Gates gates={run.gates} />
            <AssumedBefore base={`/jobs/${run.job}`} />
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
          {lead ? null : <p className="pb-2">A lead of the team signs off.</p>}
          <Button large look="act" disabled={run.gates.length > 0 || !lead} onClick={() => void recording.signOff()}>
            Sign off
          </Button>
        </footer>
      )}
    </>
  );
}
