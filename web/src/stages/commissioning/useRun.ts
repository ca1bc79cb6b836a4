import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Problem, type Run, answer, api } from "../../api/client";
import { type DeviceRecord, freshUuid, sendRecords, waitingRecords } from "../../job/records";

const RETRY_MS = 4000;

/** Recording into a run and signing it off; what has no answer yet waits in this browser and is sent again. */
export function useRun(run: Run) {
  const queries = useQueryClient();
  const [problem, setProblem] = useState<Problem | null>(null);
  const [waiting, setWaiting] = useState(waitingRecords(run.id).length);

  const put = (next: Run) => queries.setQueryData<Run[]>(["runs", run.job], (old) => (old ?? []).map((r) => (r.id === next.id ? next : r)));
  const send = async (added: DeviceRecord[]) => {
    setProblem(null);
    try {
      const got = await sendRecords(run.id, added, (events) => answer(api.POST("/api/runs/{run_id}/events", { params: { path: { run_id: run.id } }, body: { events } })));
      put(got.run);
    } catch (found) {
      if (!(found instanceof Problem)) throw found;
      setProblem(found);
    }
    setWaiting(waitingRecords(run.id).length);
  };
  useEffect(() => {
    if (waiting === 0) return;
    const timer = setTimeout(() => void send([]), problem ? RETRY_MS : 0);
    return () => clearTimeout(timer);
  });
  return {
    problem,
    waiting,
    record: (kind: string, body: Record<string, unknown>) => send([{ id: freshUuid(), kind, at: new Date().toISOString(), ...body }]),
    signOff: async () => {
      setProblem(null);
      try {
        put(await answer(api.POST("/api/runs/{run_id}/sign-off", { params: { path: { run_id: run.id } } })));
      } catch (found) {
        if (!(found instanceof Problem)) throw found;
        setProblem(found);
      }
    },
  };
}
