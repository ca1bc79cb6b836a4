// The plan as it was told last: of the next one only what changed comes across.
import type { Answers, Plan } from "../api/client";
import { EngineFailure } from "./engine";

type Rows<T> = (T | null)[];

/** A plan as far as it is not what was told at the turn before: null stands for what is as it was. */
export type Changes = Answers<"changes">;

function filled<T>(given: Rows<T>, before: T[] | undefined): T[] {
  return given.map((row, n) => {
    const found = row ?? before?.[n];
    if (found === undefined) throw new EngineFailure(`row ${n} is neither told nor kept`);
    return found;
  });
}

export class Told {
  /** The turn told last, null before the first. */
  turn: number | null = null;
  private plan: Plan | null = null;

  /** The whole plan: what is as it was are the very objects of the plan before, so that nothing of it is drawn again. */
  grown(now: Changes): Plan {
    const last = this.plan;
    const plan = {
      core_version: now.core_version,
      stages: filled(now.stages, last?.stages),
      supplies: filled(now.supplies, last?.supplies),
      machines: now.machines ?? last?.machines ?? [],
      lines: now.lines ?? last?.lines ?? [],
      faults: now.faults ?? last?.faults ?? [],
    };
    this.turn = now.turn;
    this.plan = plan;
    return plan;
  }
}
