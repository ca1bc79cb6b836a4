import { useState } from "react";
import { v7 as uuidv7 } from "uuid";
import type { Run } from "../../api/client";
import { useSurroundings } from "../../app/context";
import { isFull } from "../../outbox/device";

const FULL = "This device has no room left: this was not kept. Save the job to a file, then make room.";

/** Recording into a run and signing it off; kept on this device, sent when there is signal. */
export function useRun(run: Run) {
  const { device, sender, person } = useSurroundings();
  const [trouble, setTrouble] = useState("");
  const keep = async (step: Promise<void>) => {
    setTrouble("");
    try {
      await step;
      sender.wake();
    } catch (problem) {
      if (!isFull(problem)) throw problem;
      setTrouble(FULL);
    }
  };
  return {
    trouble: trouble || (run.refusal ? `${run.refusal.title}. ${run.refusal.detail}` : ""),
    record: (kind: string, body: Record<string, unknown>) => keep(device.recordEvents(run.job, run.id, [{ id: uuidv7(), kind, at: new Date().toISOString(), by: person.name, ...body }])),
    signOff: () => keep(device.signOff(run.job, run.id, person.name)),
  };
}
