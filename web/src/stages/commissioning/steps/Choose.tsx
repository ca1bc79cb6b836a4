import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import { Button } from "../../../ui/controls";
import { Act } from "../Act";
import { useQuantities } from "../../../app/context";
import { stopwatch, useSince } from "../clock";
import { LookDrawing } from "../LookDrawing";
import type { BodyProps, StateOf, StepOf } from "./screens";

export const kind = "choose";
export const word = () => t`What do you see?`;
export const told = (step: StepOf<"choose">, state: StateOf<"choose">) =>
  step.options.find((o) => o.value === state.choice)?.reads ?? "";

export function Body({ step, state, recording, next, help, say }: BodyProps<"choose">) {
  const q = useQuantities();
  const [choice, setChoice] = useState(state.choice);
  const seen = step.options.find((o) => o.value === choice);
  const asked = step.options.find((o) => o.value === state.choice);
  const waiting = state.status === "failed" && !!asked?.wait_s && choice !== state.choice;
  const since = useSince({ at: state.since_at, page: state.page, page_s: state.page_s }, waiting);
  const left = waiting ? Math.max(0, Math.ceil((asked?.wait_s ?? 0) - since)) : 0;
  const record = async () => {
    await recording.record("choice_made", { step: step.id, choice });
    next();
  };
  return (
    <>
      <fieldset className="grid gap-2 px-4 pb-4">
        <legend className="sr-only">{say(step.title)}</legend>
        {step.options.map((o) => (
          <label
            key={o.value}
            className="flex min-h-14 items-center gap-3 rounded-sm border-[1.5px] border-edge bg-card px-3 py-1 has-checked:border-ember"
          >
            <input
              type="radio"
              name={step.id}
              value={o.value}
              checked={choice === o.value}
              onChange={() => setChoice(o.value)}
              className="size-5 shrink-0 accent-ember"
            />
            {o.drawing ? <LookDrawing drawing={o.drawing} /> : null}
            <span>{o.reads}</span>
          </label>
        ))}
        {seen?.act ? (
          <p role="status" className="border-l-4 border-gas py-1 pl-3">
            {seen.cause ? <b>{seen.cause}. </b> : null}
            {seen.act}
            {seen.wait_s ? (
              <span className="block text-muted">
                <Trans>Look again after {q.show(seen.wait_s, "hold")}.</Trans>
              </span>
            ) : null}
          </p>
        ) : null}
      </fieldset>
      <Act help={help}>
        <Button large look="act" disabled={choice === "" || left > 0} onClick={() => void record()}>
          {left > 0 ? t`Look again in ${stopwatch(left)}` : t`Record what you see`}
        </Button>
      </Act>
    </>
  );
}
