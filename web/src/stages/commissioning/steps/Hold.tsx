import { t } from "@lingui/core/macro";
import { type Quantities } from "../../../app/context";
import { Button } from "../../../ui/controls";
import { Act } from "../Act";
import { stopwatch, useSince } from "../clock";
import { useSignals, useStayAwake } from "../signals";
import { Stopwatch } from "../Stopwatch";
import type { BodyProps, StateOf, StepOf } from "./screens";

export const kind = "hold";
export const word = () => t`Hold`;
export const told = (_step: StepOf<"hold">, state: StateOf<"hold">, q: Quantities) =>
  state.held_s === null ? "" : q.show(state.held_s, "hold");
export const allowed = (step: StepOf<"hold">) =>
  t`at least ${stopwatch(step.floor_s)}${step.ceiling_s === null ? "" : t`, at most ${stopwatch(step.ceiling_s)}`}`;

export function Body({ step, state, recording, next, help, say }: BodyProps<"hold">) {
  const holding = state.status === "holding";
  const held = useSince({ at: state.since_at, page: state.page, page_s: state.page_s }, holding);
  useSignals({ running: holding, since: held, floor: step.floor_s, ceiling: step.ceiling_s });
  useStayAwake(holding);
  const left = Math.max(0, Math.ceil(step.floor_s - held));
  const end = async () => {
    await recording.record("hold_ended", { step: step.id });
    next();
  };
  return (
    <>
      <Stopwatch name={t`Held`} running={holding} since={held} floor={step.floor_s} ceiling={step.ceiling_s} />
      <Act help={help}>
        {holding ? (
          <Button large look="act" disabled={left > 0} onClick={() => void end()}>
            {left > 0 ? t`Hold ${stopwatch(left)} more` : t`Held: continue`}
          </Button>
        ) : (
          <Button large look="act" onClick={() => void recording.record("hold_begun", { step: step.id })}>
            {say(step.button) || t`Hold`}
          </Button>
        )}
      </Act>
    </>
  );
}
