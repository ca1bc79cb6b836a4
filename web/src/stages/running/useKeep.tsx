// Keeping log entries on the device, and the word that there was no room: it stands beside the button that was pressed.
import { t } from "@lingui/core/macro";
import { useState } from "react";
import { useSurroundings } from "../../app/context";
import { useJobStore } from "../../job/context";
import type { RecordBody } from "../../outbox/db";
import { isFull } from "../../outbox/device";
import { Message } from "../../ui/controls";

export function useKeep() {
  const { device, sender } = useSurroundings();
  const { id } = useJobStore();
  const [full, setFull] = useState(false);
  /** Whether there was room for the entries. */
  const keep = async (records: RecordBody[]): Promise<boolean> => {
    try {
      await device.recordEntries(id, records);
    } catch (problem) {
      if (!isFull(problem)) throw problem;
      setFull(true);
      return false;
    }
    setFull(false);
    sender.wake();
    return true;
  };
  return { keep, noRoom: full ? <NoRoom /> : null };
}

export function NoRoom() {
  return (
    <div data-testid="no-room" className="col-span-full w-full py-2">
      <Message
        failed
        title={t`This device has no room left: this was not saved`}
      >{t`What you typed is still here. Save the job to a file, make room, and record it again.`}</Message>
    </div>
  );
}
