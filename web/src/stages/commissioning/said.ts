// The words of a step with the values they name, and whether a step is over.
import type { Step, StepState } from "../../api/client";
import type { Quantities } from "../../app/context";

/** Words of a step with its values in this person's units. */
export function sayOf(step: Step, q: Quantities): (words: string) => string {
  const values = Object.fromEntries(step.says.map((s) => [s.name, s.value === null ? s.word : { value: s.value, kind: s.kind }]));
  return (words) => q.say(words, values);
}

const OVER: StepState["status"][] = ["done", "skipped", "idle"];

/** Whether nothing is left to do at a step. */
export const isOver = (state: StepState | undefined) => state !== undefined && OVER.includes(state.status ?? "open");
