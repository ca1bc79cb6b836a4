import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { type Quantities, useQuantities, useSurroundings } from "../../../app/context";
import { LiveValue, PickInstrument, useReadBy, useTaking } from "../../../instruments/ReadBy";
import { usedAt } from "../../../instruments/shelf";
import { Button } from "../../../ui/controls";
import { Mark } from "../../../ui/Mark";
import { Act } from "../Act";
import { LimitBar } from "../LimitBar";
import { beyond, within } from "../limits";
import { QuantityBox } from "../QuantityBox";
import { useTyped } from "../typed";
import type { BodyProps, StateOf, StepOf } from "./screens";

export const kind = "read";
export const word = () => t`Reading`;
export const told = (step: StepOf<"read">, state: StateOf<"read">, q: Quantities) => {
  const value = state.value === null ? "" : q.show(state.value, step.quantity);
  return value && state.overdue ? t`${value}, instrument overdue` : value;
};
export const allowed = (step: StepOf<"read">, q: Quantities) => within(step.limit, step.quantity, q);

export function Body({ run, step, recording, next, help, say }: BodyProps<"read">) {
  const q = useQuantities();
  const { vocabulary } = useSurroundings();
  const typed = useTyped(`run.${run.id}.${step.id}`, step.quantity);
  const by = useReadBy(run.unit, step.quantity, step.id);
  const keep = async (value: number, as_typed: string, taken: boolean, ageS: number) => {
    const instrument = by.source ? usedAt(by.source.instrument, vocabulary.instrument_kinds, value, taken, ageS) : undefined;
    await recording.record("reading_taken", { step: step.id, value, as_typed, ...(instrument ? { instrument } : {}) });
    typed.clear();
    next();
  };
  const taking = useTaking(by, (value, ageS) => keep(value, q.show(value, step.quantity, 5), true, ageS));
  const live = by.shown?.value ?? null;
  const isTyped = typed.text.trim() !== "";
  const value = isTyped ? typed.value : live;
  const off = beyond(value, step.limit);
  const takes = by.source?.channel !== null && by.source !== null && !isTyped;
  const record = async () => {
    if (typed.value !== null) await keep(typed.value, typed.typed, false, 0);
  };
  return (
    <>
      <div className="px-4 pb-3">
        {step.limit ? <LimitBar limit={step.limit} kind={step.quantity} value={value} /> : null}
        <PickInstrument by={by} />
        {isTyped ? null : <LiveValue by={by} quantity={step.quantity} />}
        <QuantityBox name={t`${say(step.title)}, reading`} typed={typed} enter={() => void record()} keys={!takes}>
          {off ? (
            <p role="status" className="flex gap-2.5 pt-2">
              <Mark level="stop" size={24} />
              <span>
                <b>
                  <Trans>
                    {q.show(off.by, step.quantity)} too {off.side}.
                  </Trans>
                </b>{" "}
                {off.side === "low" ? step.low_say : step.high_say}
              </span>
            </p>
          ) : null}
        </QuantityBox>
      </div>
      <Act help={help}>
        {takes ? (
          <Button
            data-testid="take-reading"
            large
            look="act"
            disabled={live === null && !taking.asked}
            onClick={() => taking.ask(!taking.asked)}
          >
            {taking.asked ? t`Stop holding` : t`Take reading`}
          </Button>
        ) : (
          <Button large look="act" disabled={typed.value === null} onClick={() => void record()}>
            {off ? t`Record and read again` : t`Record reading`}
          </Button>
        )}
      </Act>
    </>
  );
}
