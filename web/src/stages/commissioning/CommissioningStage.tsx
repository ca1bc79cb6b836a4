import { Link, useNavigate, useParams } from "react-router";
import type { Level, Run, StepState } from "../../api/client";
import { moment, useQuantities, useSurroundings } from "../../app/context";
import { useJob, useJobStore, useRecords, useStage } from "../../job/context";
import { ComesTo, StageColumns } from "../../ui/answers";
import { Button, Message } from "../../ui/controls";
import { Mark } from "../../ui/Mark";
import { Gates } from "./Gates";
import { useRun } from "./useRun";

/** Guided commissioning: its steps, joints and gates. */
export function CommissioningStage() {
  const { jobId = "" } = useParams();
  const { plan } = useJob();
  const { device, sender } = useSurroundings();
  const store = useJobStore();
  const { runs } = useRecords();
  const navigate = useNavigate();
  const run = runs[0];
  const begin = async (unit: string) => {
    await store.flush();
    const made = await device.beginRun(jobId, unit);
    sender.wake();
    await navigate(`/jobs/${jobId}/commissioning/${made}`);
  };
  return (
    <StageColumns
      given={
        <>
          <div className="flex flex-wrap gap-3 pb-3">
            {run && !run.signed ? (
              <Link to={`/jobs/${jobId}/commissioning/${run.id}`} className="inline-flex min-h-12 items-center rounded-sm bg-ember px-4 font-semibold text-on-ember">
                {run.state.current ? "Go on with the next step" : "Look at it and sign off"}
              </Link>
            ) : null}
            {plan?.machines.filter((m) => m.procedure !== null).map((u) => (
              <Button key={u.id} look={run ? "plain" : "act"} onClick={() => void begin(u.id)}>
                {run ? "Begin again: " : "Begin commissioning: "}
                {u.name}
              </Button>
            ))}
          </div>
          {run ? <Steps run={run} /> : <Message title="Commissioning has not begun">It is walked step by step with the limits of this plan; it also works on a phone, one-handed.</Message>}
        </>
      }
      comes={
        <>
          {run ? <RunStanding run={run} /> : null}
          <ComesTo stage={useStage("commissioning")} />
        </>
      }
    />
  );
}

const STEP_MARKS: Record<StepState["status"], Level> = { open: "not_checked", holding: "caution", failed: "stop", done: "good" };

function Steps({ run }: { run: Run }) {
  const q = useQuantities();
  return (
    <ol>
      {run.waiting > 0 ? <li className="py-1 text-small text-ember-ink">{run.waiting === 1 ? "1 record is" : `${run.waiting} records are`} on this device only.</li> : null}
      {run.procedure.steps.map((step, n) => {
        const state = run.state.steps[n];
        if (!state) return null;
        return (
          <li key={step.id} className="grid grid-cols-[1.4rem_1fr_auto] items-start gap-2 border-b border-hair py-1.5">
            <Mark level={STEP_MARKS[state.status]} />
            <span>
              {n + 1}. {step.title}
              {state.say ? <span className="block text-small text-stop">{state.say}</span> : null}
            </span>
            <span className="text-right">
              {state.value === null ? "" : q.show(state.value, step.quantity || "hold")}
              {step.limit ? (
                <span className="block text-tiny text-muted">
                  {q.split(step.limit.low ?? 0, step.quantity).number}–{q.show(step.limit.high ?? 0, step.quantity)}
                </span>
              ) : null}
            </span>
          </li>
        );
      })}
    </ol>
  );
}

function RunStanding({ run }: { run: Run }) {
  const recording = useRun(run);
  return (
    <section aria-label="Sign-off" className="mb-4 rounded-sm border-[1.5px] border-frame bg-card p-3">
      {run.signed ? (
        <p className="flex items-center gap-2 font-semibold">
          <Mark level="good" silent /> Signed off by {run.signed.by}, {moment(run.signed.at)}
          {run.signedHere ? <span className="font-normal text-ember-ink">here only</span> : null}
        </p>
      ) : (
        <>
          <Gates gates={run.gates} />
          <div className="pt-3">
            <Button look={run.gates.length === 0 ? "act" : "plain"} disabled={run.gates.length > 0} onClick={() => void recording.signOff()}>
              Sign off
            </Button>
          </div>
          {recording.trouble ? (
            <p role="alert" className="pt-2 text-stop">
              {recording.trouble}
            </p>
          ) : null}
        </>
      )}
      <h3 className="pt-3 font-semibold">Joints</h3>
      <ul className="grid gap-x-6 md:grid-cols-2">
        {run.state.joints.map((j) => (
          <li key={j.id} className="flex items-center gap-2 py-0.5 text-small">
            <Mark size={14} level={j.status === "tight" ? "good" : j.status === "not_tested" ? "not_checked" : "stop"} />
            {j.name}
            <span className="ml-auto shrink-0 text-muted">
              {j.status.replace("_", " ")}
              {j.method ? `, ${j.method}` : ""}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
