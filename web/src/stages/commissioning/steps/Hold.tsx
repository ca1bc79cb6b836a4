import { useEffect, useState } from "react";
import { type Quantities } from "../../../app/context";
import { Button } from "../../../ui/controls";
import { Act } from "../Act";
import type { BodyProps, StateOf, StepOf } from "./screens";

export const kind = "hold";
export const word = "Hold";
export const told = (_step: StepOf<"hold">, state: StateOf<"hold">, q: Quantities) => (state.held_s === null ? "" : q.show(state.held_s, "hold"));

function useSecondsSince(at: string | null, running: boolean): number {
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    if (!running) return;
    const timer = setInterval(() => setNow(Date.now()), 250);
    return () => clearInterval(timer);
  }, [running]);
  return at === null ? 0 : Math.max(0, Math.floor((now - Date.parse(at)) / 1000));
}

const clock = (s: number) => `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")}`;

export function Body({ step, state, recording, next, help }: BodyProps<"hold">) {
  const holding = state.status === "holding";
  const held = useSecondsSince(state.at, holding);
  const left = Math.max(0, Math.ceil(step.floor_s) - held);
  const over = step.ceiling_s !== null && held > step.ceiling_s;
  const end = async () => {
    await recording.record("hold_ended", { step: step.id });
    next();
  };
  return (
    <>
      <div className="px-4 pb-4">
        <p role="timer" aria-label="Held" className={`text-[4.5rem] font-bold leading-none ${over ? "text-stop" : ""}`}>
          {holding ? clock(held) : clock(0)}
        </p>
        <p className="pt-1 text-muted">
          at least {clock(step.floor_s)}
          {step.ceiling_s === null ? "" : `, at most ${clock(step.ceiling_s)}`}
        </p>
        {holding ? <progress className="h-3 w-full accent-gas" max={step.floor_s} value={Math.min(held, step.floor_s)} aria-label="Held so far" /> : null}
      </div>
      <Act help={help}>
        {holding ? (
          <Button large look="act" disabled={left > 0} onClick={() => void end()}>
            {left > 0 ? `Hold ${left} s more` : "Held: go on"}
          </Button>
        ) : (
          <Button large look="act" onClick={() => void recording.record("hold_begun", { step: step.id })}>
            {step.button || "Hold"}
          </Button>
        )}
      </Act>
    </>
  );
}
