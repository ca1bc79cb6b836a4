// What is at hand beside the step: the other hand, leaving the step out, what was done at the unit, the ledger of bypasses.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Run, Step } from "../../api/client";
import { Link } from "react-router";
import { useSurroundings } from "../../app/context";
import { useDraft } from "../../job/context";
import { Button } from "../../ui/controls";
import { BypassLedger } from "./BypassLedger";
import { useHand } from "./hand";
import { capital, choicesOf } from "./said";
import type { useRun } from "./useRun";

interface HelpProps {
  run: Run;
  step: Step;
  recording: ReturnType<typeof useRun>;
  close: () => void;
}

export function Help({ run, step, recording, close }: HelpProps) {
  const { vocabulary } = useSurroundings();
  const { hand, change } = useHand();
  const [reason, setReason] = useDraft(`run.${run.id}.${step.id}.skip`);
  const [words, setWords] = useDraft(`run.${run.id}.remark`);
  const box = "min-h-12 w-full rounded-sm border-[1.5px] border-edge bg-card px-2";
  const skip = async () => {
    await recording.record("step_skipped", { step: step.id, reason });
    setReason("");
    close();
  };
  const remark = async () => {
    await recording.record("remark", { text: words });
    setWords("");
  };
  return (
    <section aria-label={t`Help`} className="my-3 grid gap-3 border-y-[1.5px] border-frame py-3">
      <div role="group" aria-label={t`Hand`} className="grid grid-cols-2 gap-2">
        {(["left", "right"] as const).map((h) => (
          <button
            key={h}
            data-testid={`hand-${h}`}
            type="button"
            aria-pressed={h === hand}
            onClick={() => change(h)}
            className={`min-h-12 rounded-sm border-[1.5px] ${h === hand ? "border-gas bg-gas-wash font-semibold" : "border-edge bg-card"}`}
          >
            {h === "left" ? t`Left hand` : t`Right hand`}
          </button>
        ))}
      </div>
      {step.may_skip ? (
        <form
          className="grid gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            if (reason.trim() !== "") void skip();
          }}
        >
          <label>
            <Trans>
              Reason to skip this step
              <input className={box} value={reason} onChange={(e) => setReason(e.target.value)} />
            </Trans>
          </label>
          <Button type="submit" large disabled={reason.trim() === ""}>{t`Skip step`}</Button>
        </form>
      ) : (
        <p className="text-body text-ink-2">{t`This step cannot be skipped. What follows is only safe with it.`}</p>
      )}
      <label>
        <Trans>
          Something was done at the unit
          <select className={box} value="" onChange={(e) => void recording.record("unit_changed", { change: e.target.value })}>
            <option value="">Choose what: its tests must be repeated</option>
            {choicesOf(vocabulary, "unit_changed", "change").map(({ value, reads }) => (
              <option key={value} value={value}>
                {capital(reads)}
              </option>
            ))}
          </select>
        </Trans>
      </label>
      <form
        className="grid gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          if (words.trim() !== "") void remark();
        }}
      >
        <label>
          <Trans>
            Remark
            <input className={box} value={words} onChange={(e) => setWords(e.target.value)} />
          </Trans>
        </label>
        <Button type="submit" large disabled={words.trim() === ""}>{t`Save remark`}</Button>
      </form>
      <Link
        className="flex min-h-12 items-center underline decoration-ember decoration-2 underline-offset-3"
        to={`/jobs/${run.job}/faults/${run.unit}?run=${run.id}&step=${step.id}`}
      >{t`Find a fault`}</Link>
      <BypassLedger run={run} recording={recording} />
    </section>
  );
}
