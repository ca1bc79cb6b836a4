import { t } from "@lingui/core/macro";
import { useState } from "react";
import type { Quantities } from "../../../app/context";
import { Button } from "../../../ui/controls";
import { Act } from "../Act";
import { provenS, stopwatch, useSince, watchedHere } from "../clock";
import { QuantityBox } from "../QuantityBox";
import { useSignals, useStayAwake } from "../signals";
import { Stopwatch } from "../Stopwatch";
import { useTyped } from "../typed";
import { capital } from "../said";
import type { BodyProps, StateOf, StepOf } from "./screens";

export const kind = "wait";
export const word = () => t`Wait`;
export const told = (_step: StepOf<"wait">, state: StateOf<"wait">, q: Quantities) =>
  state.waited_s === null ? "" : q.show(state.waited_s, "hold");
export const allowed = (step: StepOf<"wait">) =>
  [step.floor_s > 0 ? t`at least ${stopwatch(step.floor_s)}` : "", ...step.until].filter(Boolean).join(", ");

export function Body({ run, step, state, recording, next, help, say }: BodyProps<"wait">) {
  const begun = { at: state.since_at, page: state.page, page_s: state.page_s };
  const waiting = state.status === "holding" && begun.at !== null;
  const since = useSince(begun, waiting);
  useSignals({ running: waiting, since, floor: step.floor_s, ceiling: step.ceiling_s });
  useStayAwake(waiting);
  const [seen, setSeen] = useState<string[]>([]);
  const warmth = useTyped(`run.${run.id}.${step.id}`, "temperature");
  // Of a lock-out only what the clocks can prove counts.
  const proven = waiting && step.lockout === true ? provenS(begun) : since;
  const cut = waiting && step.lockout === true && !watchedHere(begun);
  const lost = cut && proven === 0;
  const left = Math.max(0, Math.ceil(step.floor_s - proven));
  const missing = step.until.filter((u) => !seen.includes(u));
  const end = async () => {
    await recording.record("wait_ended", { step: step.id, seen, temperature_c: step.temperature_c === null ? null : warmth.value });
    warmth.clear();
    next();
  };
  const begin = () => void recording.record("wait_begun", { step: step.id });
  const ready = left === 0 && missing.length === 0 && (step.temperature_c === null || warmth.value !== null);
  return (
    <>
      {step.floor_s > 0 ? (
        <Stopwatch
          name={cut && !lost ? t`Keep this value` : t`Waited`}
          running={waiting && !lost}
          since={proven}
          floor={step.floor_s}
          ceiling={step.ceiling_s}
        />
      ) : null}
      <div className="grid gap-2 px-4 pb-4">
        {lost ? (
          <p
            role="alert"
            className="text-ember-ink"
          >{t`This device cannot prove how long the lock-out has run. It starts again when you press the button.`}</p>
        ) : cut ? (
          <p role="status">{t`This page was opened after the lock-out began. Only the time since then counts.`}</p>
        ) : null}
        {step.until.map((u) => (
          <label
            key={u}
            className="flex min-h-14 items-center gap-3 rounded-sm border-[1.5px] border-edge bg-card px-3 has-checked:border-good"
          >
            <input
              type="checkbox"
              data-testid="until"
              checked={seen.includes(u)}
              onChange={(e) => setSeen(e.target.checked ? [...seen, u] : seen.filter((s) => s !== u))}
              className="size-5 accent-good"
            />
            {capital(u)}
          </label>
        ))}
        {step.temperature_c === null ? null : <QuantityBox name={t`${say(step.title)}, temperature`} typed={warmth} />}
      </div>
      <Act help={help}>
        {(waiting && !lost) || step.floor_s === 0 ? (
          <Button large look="act" disabled={!ready} onClick={() => void end()}>
            {left > 0
              ? t`${step.lockout ? t`Locked` : t`Wait`} ${stopwatch(left)} more`
              : say(step.button) || t`Confirm and continue`}
          </Button>
        ) : (
          <Button large look="act" onClick={begin}>
            {lost ? t`Start the time now: ${stopwatch(step.floor_s)}` : t`Start the wait`}
          </Button>
        )}
      </Act>
    </>
  );
}
