import { useState } from "react";
import { Button } from "../../../ui/controls";
import { Act } from "../Act";
import type { BodyProps, StateOf, StepOf } from "./screens";

export const kind = "choose";
export const word = "What do you see?";
export const told = (step: StepOf<"choose">, state: StateOf<"choose">) => step.options.find((o) => o.value === state.choice)?.reads ?? "";

export function Body({ step, state, recording, next, help }: BodyProps<"choose">) {
  const [choice, setChoice] = useState(state.choice);
  const record = async () => {
    await recording.record("choice_made", { step: step.id, choice });
    next();
  };
  return (
    <>
      <fieldset className="grid gap-2 px-4 pb-4">
        <legend className="sr-only">{step.title}</legend>
        {step.options.map((o) => (
          <label key={o.value} className="flex min-h-14 items-center gap-3 rounded-sm border-[1.5px] border-edge bg-card px-3 has-checked:border-ember">
            <input type="radio" name={step.id} value={o.value} checked={choice === o.value} onChange={() => setChoice(o.value)} className="size-5 accent-ember" />
            {o.reads}
          </label>
        ))}
      </fieldset>
      <Act help={help}>
        <Button large look="act" disabled={choice === ""} onClick={() => void record()}>
          Record what you see
        </Button>
      </Act>
    </>
  );
}
