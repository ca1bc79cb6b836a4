import { v7 as uuidv7 } from "uuid";
import type { Run } from "../../api/client";
import { useDraft } from "../../job/context";
import { Button } from "../../ui/controls";
import type { useRun } from "./useRun";

interface BypassLedgerProps {
  run: Run;
  recording: ReturnType<typeof useRun>;
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
    <section aria-label="Bypass ledger" className="my-3 border-t-[1.5px] border-frame pt-2">
      <h2 className="font-bold">Bypasses</h2>
      <p className="text-body text-ink-2">A bridged sensor or lifted wire goes in here with its reason. The unit is not left while one is open, and nobody signs off.</p>
      <ul>
        {run.state.bypasses.map((b) => (
          <li key={b.bypass} className="flex items-center gap-3 border-b border-hair py-1.5">
            <span className="min-w-0 flex-1">
              <b>{b.what}</b> · {b.why}
            </span>
            {b.closed_at ? (
              <span className="text-good">closed</span>
            ) : (
              <Button look="act" large onClick={() => void recording.record("bypass_closed", { bypass: b.bypass })}>
                Close bypass
              </Button>
            )}
          </li>
        ))}
      </ul>
      <div className="grid gap-2 pt-2">
        <label>
          What is bypassed
          <input className={box} value={what} onChange={(e) => setWhat(e.target.value)} />
        </label>
        <label>
          Why
          <input className={box} value={why} onChange={(e) => setWhy(e.target.value)} />
        </label>
        <Button large disabled={what.trim() === "" || why.trim() === ""} onClick={() => void open()}>
          Open a bypass
        </Button>
      </div>
      <h2 className="pt-3 font-bold">A joint was opened</h2>
      <p className="text-body text-ink-2">Then its leak test no longer counts.</p>
      <select aria-label="Joint that was opened" className={box} value="" onChange={(e) => void recording.record("joint_opened", { joint: e.target.value })}>
        <option value="">— choose the joint</option>
        {run.state.joints.map((j) => (
          <option key={j.id} value={j.id}>
            {j.name}
          </option>
        ))}
      </select>
    </section>
  );
}
