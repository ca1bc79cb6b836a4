// The words of a step with the values they name, and whether a step is over.
import type { Step, StepState, Vocabulary } from "../../api/client";
import type { Quantities } from "../../app/context";

/** Words of a step with its values in this person's units. */
export function sayOf(step: Step, q: Quantities): (words: string) => string {
  const values = Object.fromEntries(step.says.map((s) => [s.name, s.value === null ? s.word : { value: s.value, kind: s.kind }]));
  return (words) => q.say(words, values);
}

const OVER: StepState["status"][] = ["done", "skipped", "idle"];

/** Whether nothing is left to do at a step. */
export const isOver = (state: StepState | undefined) => state !== undefined && OVER.includes(state.status ?? "open");

/** Words with which a line begins. */
export const capital = (words: string) => words.charAt(0).toUpperCase() + words.slice(1);

/** What one chooses from in a field of an event. */
export const choicesOf = (vocabulary: Vocabulary, event: string, field: string) =>
  vocabulary.event_choices.find((c) => c.event === event && c.field === field)?.options ?? [];
