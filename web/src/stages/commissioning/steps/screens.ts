// The screens of the kinds of steps: a module here is known by being here.
import type { Step, StepState } from "../../../api/client";
import type { Quantities } from "../../../app/context";
import type { useRun } from "../useRun";
import type { Run } from "../../../api/client";

export type Kind = Step["kind"];
export type StepOf<K extends Kind> = Extract<Step, { kind: K }>;
export type StateOf<K extends Kind> = Extract<StepState, { kind: K }>;

export interface BodyProps<K extends Kind> {
  run: Run;
  step: StepOf<K>;
  state: StateOf<K>;
  recording: ReturnType<typeof useRun>;
  next: () => void;
  /** Stay at this step even once it is done: what was answered last may be taken back. */
  stay: () => void;
  help: () => void;
  /** Words of the step with the values it names, in this person's units. */
  say: (words: string) => string;
}

export interface StepScreen<K extends Kind = Kind> {
  kind: K;
  /** What stands over the step's title. */
  word: () => string;
  /** What is done at the step, and the one next action. */
  Body: (props: BodyProps<K>) => React.ReactNode;
  /** What was seen, and what may be, in a line. */
  told?: (step: StepOf<K>, state: StateOf<K>, q: Quantities) => string;
  allowed?: (step: StepOf<K>, q: Quantities) => string;
}

const modules = import.meta.glob<StepScreen>("./*.tsx", { eager: true });
const known = new Map(Object.values(modules).map((m) => [m.kind, m]));

/** The screen of a kind of step. */
export function screenOf(kind: Kind): StepScreen {
  const found = known.get(kind);
  if (!found) throw new Error(`no screen for steps of the kind ${kind}`);
  return found;
}
