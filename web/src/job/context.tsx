import { createContext, use, useSyncExternalStore } from "react";
import type { Stage, StageName } from "../api/client";
import type { JobState, JobStore } from "./store";

export const JobContext = createContext<JobStore | null>(null);

/** The store of the open job. */
export function useJobStore(): JobStore {
  const store = use(JobContext);
  if (!store) throw new Error("used outside of an open job");
  return store;
}

/** The open job as it stands now. */
export function useJob(): JobState {
  const store = useJobStore();
  return useSyncExternalStore(store.subscribe, store.get);
}

/** One stage of the plan, null until there is an answer. */
export function useStage(name: StageName): Stage | null {
  return useJob().plan?.stages.find((s) => s.stage === name) ?? null;
}
