// Beginning a procedure of a machine, and going there.
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { type Procedure, Problem } from "../../api/client";
import { useSurroundings } from "../../app/context";
import { ask } from "../../engine/ask";
import { useJobStore } from "../../job/context";

/** Begin a procedure by its key, "" the one to commission by, or just what changed since the signed ones; and what was wrong with it. */
export function useBegin(unit: string) {
  const { jobId = "" } = useParams();
  const { device, sender } = useSurroundings();
  const store = useJobStore();
  const navigate = useNavigate();
  const [trouble, setTrouble] = useState("");
  const begin = async (again: Procedure[] | null = null, key = "") => {
    setTrouble("");
    try {
      await store.flush();
      const made = await device.beginRun(
        jobId,
        unit,
        await ask("begin", { document: store.get().document, unit, signed: again, key }),
      );
      sender.wake();
      await navigate(`/jobs/${jobId}/commissioning/${made}`);
    } catch (problem) {
      if (!(problem instanceof Problem)) throw problem;
      setTrouble(`${problem.message}. ${problem.faults.map((f) => f.message).join("; ") || problem.detail}`);
    }
  };
  return { begin, trouble };
}
