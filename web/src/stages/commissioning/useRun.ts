import { t } from "@lingui/core/macro";
import { useState } from "react";
import { v7 as uuidv7 } from "uuid";
import type { Run } from "../../api/client";
import { moment, useSurroundings } from "../../app/context";
import { isFull } from "../../outbox/device";
import { PAGE, pageSeconds } from "./clock";
import { stamp } from "../../outbox/time";

const noRoom = () => t`This device has no room left, so this was not saved. Save the job to a file, then make room.`;

/** That the server did not take a sign-off, and why; "" where it did. */
export function refusedWords(run: Run): string {
  if (!run.refusal) return "";
  const when = run.refusedAt ? t` of ${moment(run.refusedAt, "short")}` : "";
  return t`Your sign-off${when} was refused: ${run.refusal.title}. ${run.refusal.detail}`;
}

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
      setTrouble(noRoom());
    }
  };
  /** Record something; its id, by which a slip may be taken back at once. */
  const record = async (kind: string, body: Record<string, unknown>) => {
    const id = uuidv7();
    await keep(
      device.recordEvent(run.job, run.id, {
        id,
        kind,
        ...stamp(),
        by: person.name,
        page: PAGE,
        page_s: pageSeconds(),
        ...body,
      }),
    );
    return id;
  };
  return {
    trouble: trouble || refusedWords(run),
    record,
    signOff: () => keep(device.signOff(run.job, run.id, person.name)),
  };
}
