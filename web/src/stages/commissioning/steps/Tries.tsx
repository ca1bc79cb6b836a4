import { t } from "@lingui/core/macro";
import { useState } from "react";
import { Button } from "../../../ui/controls";
import { Act } from "../Act";
import { PAGE, pageSeconds, stopwatch, useSince } from "../clock";
import { useSignals } from "../signals";
import { Stopwatch } from "../Stopwatch";
import type { BodyProps, StateOf, StepOf } from "./screens";
import { nowMs } from "../../../outbox/time";

export const kind = "tries";
export const word = () => t`Try`;
export const told = (_step: StepOf<"tries">, state: StateOf<"tries">) => (state.tries ? t`try ${state.tries}` : "");
export const allowed = (step: StepOf<"tries">) =>
  t`${step.tries} × ${stopwatch(step.try_ceiling_s)}, then ${stopwatch(step.rest_s)} rest`;

export function Body({ step, state, recording, next, help }: BodyProps<"tries">) {
  const [begun, setBegun] = useState<number | null>(null);
  const [held, setHeld] = useState<number | null>(null);
  const running = begun !== null;
  const since = useSince({ at: running ? new Date(nowMs()).toISOString() : null, page: PAGE, page_s: begun }, running);
  useSignals({ running, since, floor: step.try_ceiling_s });
  const resting = (state.tries ?? 0) >= step.tries && state.status !== "done";
  const last = { at: state.since_at, page: state.page, page_s: state.page_s };
  const rested = useSince(last, resting);
  const left = resting ? Math.max(0, Math.ceil(step.rest_s - rested)) : 0;
  useSignals({ running: resting, since: rested, floor: step.rest_s });
  const end = () => {
    if (begun !== null) setHeld(Math.round((pageSeconds() - begun) * 10) / 10);
    setBegun(null);
  };
  // The answer stays until the run has taken it in: a try begun before would be lost with the old screen.
  const [taken, setTaken] = useState<typeof state | null>(null);
  if (taken !== null && taken !== state) {
    setTaken(null);
    setHeld(null);
  }
  const record = async (caught: boolean) => {
    setTaken(state);
    await recording.record("try_made", { step: step.id, held_s: held ?? 0, caught });
    next();
  };
  return (
    <>
      {left > 0 ? (
        <Stopwatch name={t`Rested`} running since={rested} floor={step.rest_s} />
      ) : (
        <Stopwatch name={t`This try`} running={running} since={since} floor={0} ceiling={step.try_ceiling_s} />
      )}
      <p className="px-4 pb-4 text-muted">
        {held === null
          ? t`Try ${resting ? 1 : (state.tries ?? 0) + 1} of ${step.tries}, each at most ${stopwatch(step.try_ceiling_s)}.`
          : t`Held ${held} s. Did it light?`}
      </p>
      <Act help={help}>
        {held !== null ? (
          <div className="grid grid-cols-2 gap-2">
            <Button
              data-testid="did-not-catch"
              large
              disabled={taken !== null}
              onClick={() => void record(false)}
            >{t`It did not light`}</Button>
            <Button
              data-testid="caught"
              large
              look="act"
              disabled={taken !== null}
              onClick={() => void record(true)}
            >{t`It lit`}</Button>
          </div>
        ) : running ? (
          <Button data-testid="end-try" large look="act" onClick={end}>{t`Remove offline copy`}</Button>
        ) : (
          <Button data-testid="begin-try" large look="act" disabled={left > 0} onClick={() => setBegun(pageSeconds())}>
            {left > 0 ? t`Rest ${stopwatch(left)} more` : t`Start try`}
          </Button>
        )}
      </Act>
    </>
  );
}
