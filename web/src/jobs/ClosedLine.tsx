// A job that is filed away, signed off or given away says so before anybody changes it.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useLiveQuery } from "dexie-react-hooks";
import { useState } from "react";
import { useNavigate } from "react-router";
import { useJobStore } from "../job/context";
import { saveJob } from "../outbox/save";
import { saidOf } from "../outbox/WaitingLine";
import { Button } from "../ui/controls";
import { Mark } from "../ui/Mark";
import { moment, useSurroundings } from "../app/context";

export function ClosedLine() {
  const { device } = useSurroundings();
  const { id } = useJobStore();
  const job = useLiveQuery(() => device.db.jobs.get(id), [device, id]);
  if (!job) return null;
  if (job.gone) return <Gone />;
  if (!job.filed && !job.signedOff) return null;
  return (
    <section data-testid="closed-job" className="no-print flex gap-2 border-b border-edge bg-card px-5 py-2 text-small">
      <Mark level="note" size={16} silent />
      <p>
        {job.signedOff ? (
          <>
            <Trans>
              <b>
                Signed off by {job.signedOff.name} on {moment(job.signedOff.at)}.
              </b>{" "}
              Changes from now on are not part of what was signed. The sign-off lists them.
            </Trans>
          </>
        ) : null}
        {job.filed ? (
          <>
            <Trans>
              <b>This job is archived.</b> Your changes are saved, and the job stays out of the list until somebody restores it.
            </Trans>
          </>
        ) : null}
      </p>
    </section>
  );
}

/** What a device still holds of a job that was given away: it can be taken out as a file, or let go. */
function Gone() {
  const { device } = useSurroundings();
  const { id } = useJobStore();
  const navigate = useNavigate();
  const [sure, setSure] = useState(false);
  const rows = useLiveQuery(() => device.db.outbox.where("job").equals(id).toArray(), [device, id]) ?? [];
  const pictures =
    useLiveQuery(
      () =>
        device.db.photos
          .where("job")
          .equals(id)
          .and((p) => p.sent !== 1)
          .count(),
      [device, id],
    ) ?? 0;
  const waits = saidOf(rows, pictures);
  const letGo = async () => {
    await device.letGo(id);
    void navigate("/");
  };
  return (
    <section
      data-testid="gone-job"
      role="alert"
      className="no-print border-b-[1.5px] border-frame bg-ember-wash px-5 py-2 text-small"
    >
      <p>
        <Trans>
          <b>This job no longer belongs to your team. It was transferred, or you have left the team.</b>{" "}
          {waits ? t`${waits} from this device cannot be sent.` : ""} Save the job to a file for whoever has it now, then remove it
          from this device.
        </Trans>
      </p>
      <p className="flex flex-wrap gap-2 pt-1">
        <Button data-testid="save-gone" onClick={() => void saveJob(device, id)}>{t`Save job to a file`}</Button>
        {sure ? (
          <Button data-testid="let-go" look="act" onClick={() => void letGo()}>{t`Remove it and what is unsent`}</Button>
        ) : (
          <Button data-testid="ask-let-go" look="quiet" onClick={() => setSure(true)}>{t`Remove from this device`}</Button>
        )}
      </p>
    </section>
  );
}
