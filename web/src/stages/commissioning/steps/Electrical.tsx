import { t } from "@lingui/core/macro";
import { type Quantities, useQuantities, useSurroundings } from "../../../app/context";
import { usedAt } from "../../../instruments/shelf";
import { TakeSet, useTakeSet } from "../../../instruments/TakeSet";
import { useJobStore } from "../../../job/context";
import { Button } from "../../../ui/controls";
import { Mark } from "../../../ui/Mark";
import { Act } from "../Act";
import { beyond, within } from "../limits";
import { useAllTyped, useTyped } from "../typed";
import type { BodyProps, StateOf, StepOf } from "./screens";

export const kind = "electrical";
export const word = () => t`Volts, hertz, amperes`;

type Meter = StepOf<"electrical">["meters"][number];

export const told = (step: StepOf<"electrical">, state: StateOf<"electrical">, q: Quantities) =>
  state.readings.map((r) => q.show(r.value ?? 0, step.meters.find((m) => m.id === r.id)?.quantity ?? "voltage")).join(", ");

export function Body({ run, step, recording, next, help }: BodyProps<"electrical">) {
  const store = useJobStore();
  const q = useQuantities();
  const { vocabulary } = useSurroundings();
  const set = useTakeSet(
    run.unit,
    step.meters.map((m) => m.quantity ?? "voltage"),
  );
  const fill = (found: Record<string, number>) => {
    for (const m of step.meters) {
      const value = found[m.id];
      if (value !== undefined) store.draft(keyOf(m), q.split(value, m.quantity ?? "voltage", 4).number);
    }
  };
  const keyOf = (meter: Meter) => `run.${run.id}.${step.id}.${meter.id}`;
  const values = useAllTyped(step.meters.map((m) => ({ key: keyOf(m), kind: m.quantity ?? "voltage" })));
  const readings = step.meters.flatMap((m, n) =>
    values[n] === null || values[n] === undefined ? [] : [{ id: m.id, value: values[n] }],
  );
  const record = async () => {
    const instrument = set.picked
      ? usedAt(set.picked, vocabulary.instrument_kinds, readings[0]?.value ?? 0, Object.keys(set.shown).length > 0, 0)
      : undefined;
    await recording.record("electrical_read", { step: step.id, readings, ...(instrument ? { instrument } : {}) });
    for (const m of step.meters) store.draft(keyOf(m), null);
    next();
  };
  return (
    <>
      <TakeSet set={set} fill={fill} wanted={step.meters.map((m) => m.id)} />
      <div className="grid gap-2 px-4 pb-4">
        {step.meters.map((m) => (
          <MeterRow key={m.id} meter={m} draft={keyOf(m)} />
        ))}
      </div>
      <Act help={help}>
        <Button
          data-testid={readings.length < step.meters.length ? "read-more" : "record-all"}
          large
          look="act"
          disabled={readings.length < step.meters.length}
          onClick={() => void record()}
        >
          {readings.length < step.meters.length ? t`${readings.length} of ${step.meters.length} read` : t`Record all`}
        </Button>
      </Act>
    </>
  );
}

interface MeterRowProps {
  meter: Meter;
  /** Where what is typed is kept until it is recorded. */
  draft: string;
}

/** One value of the set, with what it may be and whether it is. */
function MeterRow({ meter, draft }: MeterRowProps) {
  const q = useQuantities();
  const kind = meter.quantity ?? "voltage";
  const typed = useTyped(draft, kind);
  const off = beyond(typed.value, meter.limit) !== null;
  return (
    <label className="grid grid-cols-[1fr_6.5rem_1.5rem] items-center gap-x-2 border-b border-hair pb-2">
      <span>
        <span className="block font-medium">{meter.name}</span>
        <span className={`block text-body ${typed.error ? "text-stop" : "text-muted"}`}>
          {typed.error || within(meter.limit, kind, q)}
        </span>
      </span>
      <input
        data-meter={meter.id}
        aria-label={t`${meter.name}, reading`}
        value={typed.text}
        inputMode="decimal"
        autoComplete="off"
        onChange={(e) => typed.setText(e.target.value)}
        className="min-h-12 min-w-0 rounded-sm border-2 border-frame bg-card px-2 text-right text-big font-bold"
      />
      <span>{typed.value === null ? null : <Mark level={off ? "stop" : "good"} />}</span>
    </label>
  );
}
