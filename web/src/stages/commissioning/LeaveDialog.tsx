import { t } from "@lingui/core/macro";
import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { useNavigate } from "react-router";
import type { Run } from "../../api/client";
import { Button } from "../../ui/controls";
import { OpenBypasses } from "./BypassLedger";
import { stillOpen } from "./open";
import type { useRun } from "./useRun";

interface LeaveProps {
  asked: boolean;
  run: Run;
  recording: ReturnType<typeof useRun>;
  stay: () => void;
  /** Address to go to. */
  leave: string;
}

/** Nobody leaves a unit with a bypass open without having said that it is shut down, nor without seeing what is open or lit. */
export function LeaveDialog({ asked, run, recording, stay, leave }: LeaveProps) {
  const navigate = useNavigate();
  const open = run.state.bypasses.some((b) => b.closed_at === null);
  const go = async () => {
    if (open)
      await recording.record("remark", { text: t`Left with a bypass open. The burner is off and the fuel is shut at the unit.` });
    await navigate(leave);
  };
  return (
    <Dialog open={asked} onClose={stay} className="relative z-40">
      <div className="fixed inset-0 bg-ink/50" aria-hidden="true" />
      <div className="fixed inset-0 grid place-items-end sm:place-items-center">
        <DialogPanel className="w-full max-w-lg border-t-[1.5px] border-frame bg-card p-4 sm:border-[1.5px]">
          <DialogTitle className="pb-2 text-[1.3rem] font-bold">
            {open ? t`A bypass is open` : stillOpen(run).length > 0 ? t`This is open now` : t`Every bypass is closed`}
          </DialogTitle>
          {open ? (
            <p className="pb-2">{t`Never leave a unit burning while a guard is bridged. Close the bypass, or shut the burner and its gas first.`}</p>
          ) : null}
          {stillOpen(run).length > 0 ? (
            <ul data-testid="still-open" className="pb-2">
              {stillOpen(run).map((o) => (
                <li key={o.id} className="flex gap-2 border-b border-hair py-1.5">
                  <b className="flex-1">{o.name}</b> {o.stands}
                </li>
              ))}
            </ul>
          ) : null}
          <OpenBypasses run={run} recording={recording} />
          <div className="grid gap-2 pt-3">
            <Button data-testid="stay" large look="act" onClick={stay}>{t`Stay at the unit`}</Button>
            <Button data-testid="leave-now" large onClick={() => void go()}>
              {open ? t`Burner off and gas shut: leave` : t`Leave`}
            </Button>
          </div>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
