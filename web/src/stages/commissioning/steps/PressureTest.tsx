import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import { type Quantities, useQuantities, useSurroundings } from "../../../app/context";
import { Button } from "../../../ui/controls";
import { Act } from "../Act";
import { stopwatch, useSince } from "../clock";
import { QuantityBox } from "../QuantityBox";
import { capital, choicesOf } from "../said";
import { useSignals, useStayAwake } from "../signals";
import { Stopwatch } from "../Stopwatch";
import { useTyped } from "../typed";
import type { BodyProps, StateOf, StepOf } from "./screens";

export const kind = "pressure_test";
export const word = () => t`Pressure test`;
export const told = (_step: StepOf<"pressure_test">, state: StateOf<"pressure_test">, q: Quantities) =>
  state.lost_pa === null ? "" : t`lost ${q.show(state.lost_pa, "gas_pressure")}, warming allowed for`;
export const allowed = (step: StepOf<"pressure_test">, q: Quantities) =>
  t`${q.show(step.test_pa, "gas_pressure")} for ${stopwatch(step.lasts_s)}`;

export function Body({ run, step, state, recording, next, help }: BodyProps<"pressure_test">) {
  const q = useQuantities();
  const { vocabulary } = useSurroundings();
  const going = state.status === "holding" && state.since_at !== null;
  const since = useSince({ at: state.since_at, page: state.page, page_s: state.page_s }, going);
  useSignals({ running: going, since, floor: step.lasts_s });
  useStayAwake(going);
  const pressure = useTyped(`run.${run.id}.${step.id}.p`, "gas_pressure");
  const warmth = useTyped(`run.${run.id}.${step.id}.t`, "temperature");
  const [medium, setMedium] = useState<string>("air");
  const left = going ? Math.max(0, Math.ceil(step.lasts_s - since)) : 0;
  const whole = pressure.value !== null && warmth.value !== null;
  const record = async () => {
    const read = { step: step.id, pressure_pa: pressure.value, temperature_c: warmth.value };
    await recording.record(going ? "pressure_test_ended" : "pressure_test_begun", going ? read : { ...read, medium });
    pressure.clear();
    warmth.clear();
    if (going) next();
  };
  return (
    <>
      {going ? <Stopwatch name={t`Under pressure`} running since={since} floor={step.lasts_s} /> : null}
      <div className="grid gap-3 px-4 pb-4">
        <p>
          <Trans>
            {going ? t`Read both again at the end: ` : ""}
            <b>{q.show(step.test_pa, "gas_pressure")}</b> or more for <b>{stopwatch(step.lasts_s)}</b>
            {step.volume_m3 ? t`, ${q.show(step.volume_m3, "volume")} of piping` : ""}.
          </Trans>
        </p>
        {state.leak_m3_per_s !== null && state.status === "failed" ? (
          <p className="text-stop">
            <Trans>
              Lost {q.show(state.lost_pa ?? 0, "gas_pressure")}, with warming allowed for. That is a leak of{" "}
              {q.show(state.leak_m3_per_s, "gas_flow")}.
            </Trans>
          </p>
        ) : null}
        <label className="block">
          <Trans>
            Gauge shows
            <QuantityBox name={t`Gauge`} typed={pressure} keys={false} />
          </Trans>
        </label>
        <label className="block">
          <Trans>
            Pipe temperature
            <QuantityBox name={t`Pipe temperature`} typed={warmth} keys={false} />
          </Trans>
        </label>
        {going ? null : (
          <fieldset className="grid grid-cols-2 gap-2">
            <legend className="pb-1">{t`Test medium`}</legend>
            {choicesOf(vocabulary, "pressure_test_begun", "medium").map(({ value, reads }) => (
              <label
                key={value}
                className="flex min-h-12 items-center gap-2 rounded-sm border-[1.5px] border-edge bg-card px-2 has-checked:border-ember"
              >
                <input
                  type="radio"
                  name={`${step.id}-medium`}
                  checked={medium === value}
                  onChange={() => setMedium(value)}
                  className="size-5 accent-ember"
                />
                {capital(reads)}
              </label>
            ))}
          </fieldset>
        )}
      </div>
      <Act help={help}>
        <Button large look="act" disabled={!whole || left > 0} onClick={() => void record()}>
          {left > 0 ? t`${stopwatch(left)} more` : going ? t`Record the end` : t`Start test`}
        </Button>
      </Act>
    </>
  );
}
