import { useState } from "react";
import { type Quantities, useQuantities } from "../../../app/context";
import { useDraft } from "../../../job/context";
import { unitOf } from "../../../quantities/quantity";
import { Button } from "../../../ui/controls";
import { Mark } from "../../../ui/Mark";
import { Act } from "../Act";
import { LimitBar } from "../LimitBar";
import type { BodyProps, StateOf, StepOf } from "./screens";

export const kind = "read";
export const word = "Reading";
export const told = (step: StepOf<"read">, state: StateOf<"read">, q: Quantities) => (state.value === null ? "" : q.show(state.value, step.quantity));

/** The limits in a line, one-sided where there is one. */
export function allowed(step: StepOf<"read">, q: Quantities): string {
  const { low, high } = step.limit ?? { low: null, high: null };
  if (low !== null && high !== null) return `${q.split(low, step.quantity).number}–${q.show(high, step.quantity)}`;
  if (low !== null) return `at least ${q.show(low, step.quantity)}`;
  return high === null ? "" : `at most ${q.show(high, step.quantity)}`;
}

/** How far a reading lies outside its limits, null within them. */
function distance(value: number, limit: NonNullable<StepOf<"read">["limit"]>): { side: "low" | "high"; by: number } | null {
  if (limit.low !== null && value < limit.low) return { side: "low", by: limit.low - value };
  return limit.high !== null && value > limit.high ? { side: "high", by: value - limit.high } : null;
}

const KEYS = ["1", "2", "3", "4", "5", "6", "7", "8", "9", ".", "0", "⌫"];

export function Body({ run, step, recording, next, help }: BodyProps<"read">) {
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
