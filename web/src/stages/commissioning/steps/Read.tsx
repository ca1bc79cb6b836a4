import { type Quantities, useQuantities } from "../../../app/context";
import { Button } from "../../../ui/controls";
import { Mark } from "../../../ui/Mark";
import { Act } from "../Act";
import { LimitBar } from "../LimitBar";
import { beyond, within } from "../limits";
import { QuantityBox } from "../QuantityBox";
import { useTyped } from "../typed";
import type { BodyProps, StateOf, StepOf } from "./screens";

export const kind = "read";
export const word = "Reading";
export const told = (step: StepOf<"read">, state: StateOf<"read">, q: Quantities) => (state.value === null ? "" : q.show(state.value, step.quantity));
export const allowed = (step: StepOf<"read">, q: Quantities) => within(step.limit, step.quantity, q);

export function Body({ run, step, recording, next, help, say }: BodyProps<"read">) {
  const q = useQuantities();
  const typed = useTyped(`run.${run.id}.${step.id}`, step.quantity);
  const { value } = typed;
  const off = beyond(value, step.limit);
  const record = async () => {
    if (value === null) return;
    await recording.record("reading_taken", { step: step.id, value, as_typed: typed.typed });
    typed.clear();
    next();
  };
  return (
    <>
      <div className="px-4 pb-3">
        {step.limit ? <LimitBar limit={step.limit} kind={step.quantity} value={value} /> : null}
        <QuantityBox name={`${say(step.title)}, reading`} typed={typed} enter={() => void record()}>
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
        </QuantityBox>
      </div>
      <Act help={help}>
        <Button large look="act" disabled={value === null} onClick={() => void record()}>
          {off ? "Record and read again" : "Record reading"}
        </Button>
      </Act>
    </>
  );
}
