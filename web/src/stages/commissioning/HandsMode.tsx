// Commissioning with one hand: one step at a time, the next action always at the same spot.
import { useEffect, useState } from "react";
import { Link } from "react-router";
import type { Run, Step, StepState } from "../../api/client";
import { moment, useQuantities } from "../../app/context";
import { useDraft } from "../../job/context";
import { unitOf } from "../../quantities/quantity";
import { Button } from "../../ui/controls";
import { Mark } from "../../ui/Mark";
import { BypassLedger } from "./BypassLedger";
import { Gates } from "./Gates";
import { LimitBar } from "./LimitBar";
import { useRun } from "./useRun";

interface HandsModeProps {
  run: Run;
  /** Address of the job. */
  base: string;
}

type Recording = ReturnType<typeof useRun>;

export function HandsMode({ run, base }: HandsModeProps) {
  const recording = useRun(run);
  const [looking, setLooking] = useState<string | null>(null);
  const { steps } = run.procedure;
  const id = looking ?? run.state.current;
  const index = steps.findIndex((s) => s.id === id);
  const step = steps[index];
  const state = run.state.steps[index];
  const leave = `${base}/commissioning`;
  return (
    <div className="mx-auto flex w-full max-w-xl flex-1 flex-col text-[1.0625rem]">
      <header className="flex items-center gap-3 border-b-[1.5px] border-frame bg-rail px-4 py-2.5">
        <Link to={leave} className="min-h-12 content-center pr-2 underline" aria-label="Leave hands mode">
          Leave
        </Link>
        <p className="text-base font-bold">{run.procedure.unit_name}</p>
        <p className="ml-auto whitespace-nowrap text-body text-muted">
          {step ? `step ${index + 1} of ${steps.length}` : "all steps done"} · {run.waiting > 0 ? `${run.waiting} here only` : "sent"}
        </p>
      </header>
      <Progress run={run} current={id} look={setLooking} />
      <Bypasses run={run} />
      {step && state ? (
        <StepScreen key={step.id + (state.at ?? "")} run={run} step={step} state={state} recording={recording} next={() => setLooking(null)} />
      ) : (
        <Finish run={run} recording={recording} />
      )}
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

function Bypasses({ run }: { run: Run }) {
  const open = run.state.bypasses.filter((b) => b.closed_at === null);
  if (open.length === 0) return null;
  return (
    <p className="flex items-center gap-2.5 border-b-[1.5px] border-frame bg-ember-wash px-4 py-2 text-base">
      <Mark level="stop" size={20} />
      <span>
        <b className="text-ember-ink">{open.length === 1 ? "1 bypass open" : `${open.length} bypasses open`}</b> · {open.map((b) => b.what).join(", ")}
      </span>
    </p>
  );
}

const KIND_WORDS: Record<Step["kind"], string> = { confirm: "Confirm", choose: "What do you see?", read: "Reading", hold: "Hold", test: "Leak test" };

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
  const Body = { confirm: Confirm, choose: Choose, read: Read, hold: Hold, test: Test }[step.kind];
  return (
    <main className="flex flex-1 flex-col">
      <div className="flex-1 px-4 pt-4">
        <p className="text-base text-muted">{KIND_WORDS[step.kind]}</p>
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
              {state.as_typed ? <b>{state.as_typed} is out of limits. </b> : null}
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
        {state.status === "done" ? <p className="flex items-center gap-2 py-1 text-good"><Mark level="good" silent /> Done{state.as_typed ? `: ${state.as_typed}` : ""}</p> : null}
      </div>
      <Body {...props} help={() => setHelp(!help)} />
    </main>
  );
}

type BodyProps = ScreenProps & { help: () => void };

/** The bar at the bottom: help at the left, the one thing to do at the right. */
function Act({ help, children }: { help: () => void; children: React.ReactNode }) {
  return (
    <section aria-label="Next action" className="sticky bottom-0 grid grid-cols-[1fr_2.2fr] gap-2.5 border-t-[1.5px] border-frame bg-rail px-4 pb-5 pt-3">
      <Button large onClick={help}>
        Help
      </Button>
      {children}
    </section>
  );
}

function Confirm({ step, recording, next, help }: BodyProps) {
  const confirm = async () => {
    await recording.record("step_confirmed", { step: step.id });
    next();
  };
  return (
    <Act help={help}>
      <Button large look="act" onClick={() => void confirm()}>
        {step.button || "Done"}
      </Button>
    </Act>
  );
}

function Choose({ step, state, recording, next, help }: BodyProps) {
  const [choice, setChoice] = useState(state.choice ?? "");
  const record = async () => {
    await recording.record("choice_made", { step: step.id, choice });
    next();
  };
  return (
    <>
      <fieldset className="grid gap-2 px-4 pb-4">
        <legend className="sr-only">{step.title}</legend>
        {step.options.map((o) => (
          <label key={o.value} className="flex min-h-14 items-center gap-3 rounded-sm border-[1.5px] border-edge bg-card px-3 has-checked:border-ember">
            <input type="radio" name={step.id} value={o.value} checked={choice === o.value} onChange={() => setChoice(o.value)} className="size-5 accent-ember" />
            {o.reads}
          </label>
        ))}
      </fieldset>
      <Act help={help}>
        <Button large look="act" disabled={choice === ""} onClick={() => void record()}>
          Record what you see
        </Button>
      </Act>
    </>
  );
}

/** How far a reading lies outside its limits, null within them. */
function distance(value: number, limit: NonNullable<Step["limit"]>): { side: "low" | "high"; by: number } | null {
  if (limit.low !== null && value < limit.low) return { side: "low", by: limit.low - value };
  return limit.high !== null && value > limit.high ? { side: "high", by: value - limit.high } : null;
}

const KEYS = ["1", "2", "3", "4", "5", "6", "7", "8", "9", ".", "0", "⌫"];

function Read({ run, step, recording, next, help }: BodyProps) {
  const q = useQuantities();
  const kind = q.kind(step.quantity);
  const [unit, setUnit] = useState(kind[q.system]);
  const [text, setText] = useDraft(`run.${run.id}.${step.id}`);
  const typed = /[a-z"°%]/i.test(text) ? text : `${text} ${unit}`;
  const read = text.trim() === "" ? null : q.read(typed, step.quantity);
  const value = read && "value" in read ? read.value : null;
  const off = value === null || !step.limit ? null : distance(value, step.limit);
  const place = kind.units.findIndex((u) => u === unitOf(kind, unit));
  const turnUnit = () => setUnit(kind.units[(place + 1) % kind.units.length]?.symbol ?? unit);
  const record = async () => {
    if (value === null) return;
    await recording.record("reading_taken", { step: step.id, value, as_typed: typed });
    setText("");
    next();
  };
  return (
    <>
      <div className="px-4 pb-3">
        {step.limit ? <LimitBar limit={step.limit} kind={step.quantity} value={value} /> : null}
        <div className="grid grid-cols-[1fr_5.75rem] gap-2.5">
          <input aria-label={`${step.title}, reading`} value={text} inputMode="decimal" autoComplete="off" onChange={(e) => setText(e.target.value)} onKeyDown={(e) => e.key === "Enter" && void record()} className="min-w-0 rounded-sm border-2 border-frame bg-card px-3.5 py-1 text-right text-huge font-bold" />
          <Button large onClick={turnUnit}>
            <span className="sr-only">Unit: </span>
            {unit}
          </Button>
        </div>
        {off ? (
          <p role="status" className="flex gap-2.5 pt-2">
            <Mark level="stop" size={24} />
            <span>
              <b>
                {q.show(off.by, step.quantity)} too {off.side}.
              </b>{" "}
              {off.side === "low" ? step.low_say : step.high_say}
            </span>
          </p>
        ) : null}
        {read && "error" in read ? (
          <p role="alert" className="pt-1 text-base text-stop">
            {read.error}
          </p>
        ) : null}
        <div className="mt-2 grid grid-cols-3 gap-1.5 sm:hidden">
          {KEYS.map((k) => (
            <button key={k} type="button" aria-label={k === "⌫" ? "Delete the last digit" : k} onClick={() => setText(k === "⌫" ? text.slice(0, -1) : text + k)} className="min-h-12 rounded-sm border-[1.5px] border-edge bg-card text-xl font-semibold">
              {k}
            </button>
          ))}
        </div>
      </div>
      <Act help={help}>
        <Button large look="act" disabled={value === null} onClick={() => void record()}>
          {off ? "Record and read again" : "Record reading"}
        </Button>
      </Act>
    </>
  );
}

function useSecondsSince(at: string | null, running: boolean): number {
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    if (!running) return;
    const timer = setInterval(() => setNow(Date.now()), 250);
    return () => clearInterval(timer);
  }, [running]);
  return at === null ? 0 : Math.max(0, Math.floor((now - Date.parse(at)) / 1000));
}

const clock = (s: number) => `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;

function Hold({ step, state, recording, next, help }: BodyProps) {
  const holding = state.status === "holding";
  const held = useSecondsSince(state.at, holding);
  const left = Math.max(0, Math.ceil(step.floor_s) - held);
  const over = step.ceiling_s !== null && held > step.ceiling_s;
  const end = async () => {
    await recording.record("hold_ended", { step: step.id });
    next();
  };
  return (
    <>
      <div className="px-4 pb-4">
        <p role="timer" aria-label="Held" className={`text-[4.5rem] font-bold leading-none ${over ? "text-stop" : ""}`}>
          {holding ? clock(held) : clock(0)}
        </p>
        <p className="pt-1 text-muted">
          at least {clock(step.floor_s)}
          {step.ceiling_s === null ? "" : `, at most ${clock(step.ceiling_s)}`}
        </p>
        {holding ? <progress className="h-3 w-full accent-gas" max={step.floor_s} value={Math.min(held, step.floor_s)} aria-label="Held so far" /> : null}
      </div>
      <Act help={help}>
        {holding ? (
          <Button large look="act" disabled={left > 0} onClick={() => void end()}>
            {left > 0 ? `Hold ${left} s more` : "Held: go on"}
          </Button>
        ) : (
          <Button large look="act" onClick={() => void recording.record("hold_begun", { step: step.id })}>
            {step.button || "Hold"}
          </Button>
        )}
      </Act>
    </>
  );
}

const METHODS = ["soap", "approved detector", "electronic nose"];
const JOINT_WORDS = { not_tested: "not tested", tight: "tight", leaking: "leaks: tighten, test again", stale: "opened since: test again" };

function Test({ run, step, recording, help, next }: BodyProps) {
  const [method, setMethod] = useState(METHODS[0] ?? "soap");
  const joints = run.state.joints.filter((j) => step.joints.includes(j.id));
  const due = joints.find((j) => j.status !== "tight");
  const test = (joint: string, tight: boolean) => void recording.record("joint_tested", { joint, tight, method });
  return (
    <>
      <div className="px-4 pb-4">
        <label className="flex items-center gap-2 pb-2">
          Tested with
          <select value={method} onChange={(e) => setMethod(e.target.value)} className="min-h-12 flex-1 rounded-sm border-[1.5px] border-edge bg-card px-2">
            {METHODS.map((m) => (
              <option key={m}>{m}</option>
            ))}
          </select>
        </label>
        <ul className="border-t border-rule">
          {joints.map((j) => (
            <li key={j.id} className="grid grid-cols-[1fr_auto_auto] items-center gap-2 border-b border-hair py-1.5">
              <span className="min-w-0">
                <span className={j === due ? "font-bold" : ""}>{j.name}</span>
                <span className={`flex items-center gap-1.5 text-body ${j.status === "tight" ? "text-good" : j.status === "not_tested" ? "text-muted" : "text-stop"}`}>
                  <Mark silent size={14} level={j.status === "tight" ? "good" : j.status === "not_tested" ? "not_checked" : "stop"} />
                  {JOINT_WORDS[j.status]}
                </span>
              </span>
              <Button large onClick={() => test(j.id, false)}>
                Leaks<span className="sr-only">: {j.name}</span>
              </Button>
              <Button large onClick={() => test(j.id, true)}>
                Tight<span className="sr-only">: {j.name}</span>
              </Button>
            </li>
          ))}
        </ul>
      </div>
      <Act help={help}>
        {due ? (
          <Button large look="act" onClick={() => test(due.id, true)}>
            Tight: {due.name.split(":")[0]}
          </Button>
        ) : (
          <Button large look="act" onClick={next}>
            All tight: go on
          </Button>
        )}
      </Act>
    </>
  );
}

function Finish({ run, recording }: { run: Run; recording: Recording }) {
  return (
    <>
      <main className="flex-1 px-4 pt-4">
        <h1 className="mb-2 text-[1.5625rem] font-bold leading-tight">{run.signed ? "Signed off" : "Every step is done"}</h1>
        {run.signed ? (
          <p>
            By {run.signed.by}, {moment(run.signed.at)}. {run.signedHere ? "On this device only: the server seals it when there is signal." : "The record is sealed."}
          </p>
        ) : (
          <Gates gates={run.gates} />
        )}
        {recording.trouble ? (
          <p role="alert" className="pt-3 font-semibold text-stop">
            {recording.trouble}
          </p>
        ) : null}
      </main>
      {run.signed ? null : (
        <footer className="sticky bottom-0 grid border-t-[1.5px] border-frame bg-rail px-4 pb-5 pt-3">
          <Button large look="act" disabled={run.gates.length > 0} onClick={() => void recording.signOff()}>
            Sign off
          </Button>
        </footer>
      )}
    </>
  );
}
