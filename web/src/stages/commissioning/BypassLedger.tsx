import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { v7 as uuidv7 } from "uuid";
import type { Run } from "../../api/client";
import { useDraft, useJobStore } from "../../job/context";
import { Button } from "../../ui/controls";
import { Mark } from "../../ui/Mark";
import type { useRun } from "./useRun";

interface BypassLedgerProps {
  run: Run;
  recording: ReturnType<typeof useRun>;
}

/** The bypasses that are open, each with the way to close it; shown wherever one could go on without. */
export function OpenBypasses({ run, recording }: BypassLedgerProps) {
  const guest = useJobStore().role === "guest";
  const open = run.state.bypasses.filter((b) => b.closed_at === null);
  if (open.length === 0) return null;
  return (
    <section
      data-testid="open-bypasses"
      role="alert"
      aria-label={t`Open bypasses`}
      className="border-b-[1.5px] border-frame bg-ember-wash px-4 py-2 text-base"
    >
      <p className="flex items-center gap-2.5">
        <Mark level="stop" size={20} />
        <b className="text-ember-ink">{open.length === 1 ? t`1 bypass open` : t`${open.length} bypasses open`}</b>
      </p>
      <ul>
        {open.map((b) => (
          <li key={b.bypass} className="flex items-center gap-3 py-1">
            <span className="min-w-0 flex-1">
              {b.what} · {b.why}
            </span>
            <Button
              data-testid="close-bypass"
              look="act"
              disabled={guest}
              onClick={() => void recording.record("bypass_closed", { bypass: b.bypass })}
            >{t`Bypass removed: close it`}</Button>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Bypasses open and closed, opening one with its reason, and joints opened after their test. */
export function BypassLedger({ run, recording }: BypassLedgerProps) {
  const [what, setWhat] = useDraft(`run.${run.id}.bypass.what`);
  const [why, setWhy] = useDraft(`run.${run.id}.bypass.why`);
  const box = "min-h-12 w-full rounded-sm border-[1.5px] border-edge bg-card px-2";
  const open = async () => {
    await recording.record("bypass_opened", { bypass: uuidv7(), what, why });
    setWhat("");
    setWhy("");
  };
  return (
    <section aria-label={t`Bypasses`} className="my-3 border-t-[1.5px] border-frame pt-2">
      <h2 className="font-bold">{t`Bypasses`}</h2>
      <p className="text-body text-ink-2">{t`Record each bridged sensor or lifted wire here with its reason. While one is open, nobody leaves the unit and nobody signs off.`}</p>
      <ul>
        {run.state.bypasses.map((b) => (
          <li key={b.bypass} className="flex items-center gap-3 border-b border-hair py-1.5">
            <span className="min-w-0 flex-1">
              <b>{b.what}</b> · {b.why}
            </span>
            {b.closed_at ? (
              <span className="text-good">{t`closed`}</span>
            ) : (
              <Button
                look="act"
                large
                onClick={() => void recording.record("bypass_closed", { bypass: b.bypass })}
              >{t`Close bypass`}</Button>
            )}
          </li>
        ))}
      </ul>
      <form
        className="grid gap-2 pt-2"
        onSubmit={(e) => {
          e.preventDefault();
          if (what.trim() !== "" && why.trim() !== "") void open();
        }}
      >
        <label>
          <Trans>
            What is bypassed
            <input className={box} value={what} onChange={(e) => setWhat(e.target.value)} />
          </Trans>
        </label>
        <label>
          <Trans>
            Reason
            <input className={box} value={why} onChange={(e) => setWhy(e.target.value)} />
          </Trans>
        </label>
        <Button type="submit" large disabled={what.trim() === "" || why.trim() === ""}>{t`Record a bypass`}</Button>
      </form>
      <h2 className="pt-3 font-bold">{t`Record an opened joint`}</h2>
      <p className="text-body text-ink-2">{t`Then its leak test no longer counts.`}</p>
      <select
        aria-label={t`Joint that was opened`}
        className={box}
        value=""
        onChange={(e) => void recording.record("joint_opened", { joint: e.target.value })}
      >
        <option value="">{t`Choose the joint`}</option>
        {run.state.joints.map((j) => (
          <option key={j.id} value={j.id}>
            {j.name}
          </option>
        ))}
      </select>
    </section>
  );
}
