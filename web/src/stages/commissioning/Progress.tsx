import { t } from "@lingui/core/macro";
import type { Run } from "../../api/client";
import { useQuantities } from "../../app/context";
import { useJob } from "../../job/context";
import { Bar } from "./Bar";
import { isOver, sayOf } from "./said";

interface ProgressProps {
  run: Run;
  /** The step that is shown. */
  current: string | null;
  look: (id: string) => void;
}

/** Where on the path this step is, and which places are done. */
export function Progress({ run, current, look }: ProgressProps) {
  const q = useQuantities();
  const machine = useJob().plan?.machines.find((m) => m.id === run.unit);
  const set = machine?.kind === "generator";
  const places = [
    { node: "storage", word: t`Source` },
    { node: "regulator", word: t`Regulator` },
    { node: "line", word: t`Line` },
    { node: "appliance", word: set ? t`Set` : t`Heater` },
    { node: "space", word: set ? t`Loads` : t`Space` },
  ];
  const { steps } = run.procedure;
  const shown = places.filter((p) => steps.some((s) => s.node === p.node));
  const here = steps.find((s) => s.id === current)?.node;
  const doneAt = (node: string) => steps.every((s, n) => s.node !== node || isOver(run.state.steps[n]));
  const done = run.state.steps.filter((s) => isOver(s)).length;
  return (
    <nav aria-label={t`Steps`} className="border-b-[1.5px] border-frame bg-sheet px-4 py-2">
      <div className="relative">
        <span aria-hidden="true" className="absolute inset-x-6 top-[9px] h-1 bg-gas" />
        <ol className="relative flex justify-between">
          {shown.map((p) => (
            <li key={p.node} className="flex w-18 flex-col items-center gap-0.5">
              <span
                className={`size-[22px] rounded-full ${p.node === here ? "border-4 border-ember bg-card" : doneAt(p.node) ? "border-2 border-good bg-good" : "border-2 border-dashed border-edge bg-card"}`}
              />
              <span className={`text-small ${p.node === here ? "font-bold text-ember-ink" : "text-ink-2"}`}>{p.word}</span>
            </li>
          ))}
        </ol>
      </div>
      <Bar name={t`Steps done`} most={steps.length} value={done} />
      <label className="flex items-center gap-2 text-body text-muted">
        <span className="shrink-0">{t`Go to`}</span>
        <select
          data-testid="go-to"
          value={current ?? ""}
          onChange={(e) => look(e.target.value)}
          className="min-h-12 w-full rounded-sm border border-edge bg-card px-2 text-ink"
        >
          {current === null ? <option value="">{t`all steps done`}</option> : null}
          {steps.map((s, n) => (
            <option key={s.id} value={s.id} data-status={run.state.steps[n]?.status ?? "open"}>
              {n + 1}. {sayOf(s, q)(s.title)} ({statusWords()[run.state.steps[n]?.status ?? "open"]})
            </option>
          ))}
        </select>
      </label>
    </nav>
  );
}

const statusWords = () => ({
  open: "open",
  holding: t`in progress`,
  failed: "failed",
  done: "done",
  skipped: t`skipped`,
  idle: t`not needed`,
  stale: t`to be repeated`,
});
