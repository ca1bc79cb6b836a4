import type { Run } from "../../api/client";

/** What is open, lit or on at the machine of a run, as far as it holds fuel there now: nothing where its source is shut. */
export const stillOpen = (run: Run) =>
  run.state.way.some((s) => s.holds !== "current" && s.stands === "holds") ? run.state.open_now : [];
