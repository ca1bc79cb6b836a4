import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect, useState } from "react";
import { moment } from "../../../app/context";
import { Button } from "../../../ui/controls";
import { Mark } from "../../../ui/Mark";
import { Act } from "../Act";
import type { BodyProps } from "./screens";

export const kind = "test";
export const word = () => t`Leak check`;

const methods = () => [t`soap`, t`detector`, t`electronic sniffer`];
/** Where the leak test of a joint stands, in words. */
export const jointWords = () => ({
  too_early: t`checked too early`,
  not_tested: t`not checked`,
  tight: t`tight`,
  leaking: t`leaks: tighten, check again`,
  stale: t`opened since: check again`,
});
const UNDO_MS = 5000;

/** The joints that no check up to this one tests, because they hold nothing yet. */
function testedLater(run: BodyProps<"test">["run"], step: string) {
  const { steps } = run.procedure;
  const jointsOf = (some: typeof steps) => new Set(some.flatMap((s) => (s.kind === "test" ? s.joints : [])));
  const at = steps.findIndex((s) => s.id === step);
  const before = jointsOf(steps.slice(0, at + 1));
  const after = jointsOf(steps.slice(at + 1));
  return run.state.joints.filter((j) => after.has(j.id) && !before.has(j.id));
}

/** The last answer, which may be taken back for a moment. */
interface Last {
  id: string;
  joint: string;
  tight: boolean;
}

export function Body({ run, step, recording, help, next, stay }: BodyProps<"test">) {
  const [method, setMethod] = useState(methods()[0] ?? "soap");
  const [chosen, choose] = useState<string | null>(null);
  const [last, setLast] = useState<Last | null>(null);
  const joints = run.state.joints.filter((j) => step.joints.includes(j.id));
  const later = testedLater(run, step.id);
  const due =
    joints.find((j) => j.id === chosen) ?? joints.find((j) => j.status === "leaking") ?? joints.find((j) => j.status !== "tight");
  const tight = joints.filter((j) => j.status === "tight").length;
  const leaking = joints.filter((j) => j.status === "leaking");
  useEffect(() => {
    if (!last) return;
    const timer = setTimeout(setLast, UNDO_MS, null);
    return () => clearTimeout(timer);
  }, [last]);
  const test = async (joint: string, isTight: boolean) => {
    stay();
    const id = await recording.record("joint_tested", { joint, tight: isTight, method });
    choose(null);
    setLast(id ? { id, joint, tight: isTight } : null);
  };
  const undo = async () => {
    if (!last) return;
    setLast(null);
    stay();
    await recording.record("event_withdrawn", { event: last.id });
    choose(last.joint);
  };
  const nameOf = (id: string) => joints.find((j) => j.id === id)?.name ?? id;
  return (
    <>
      <div className="px-4 pb-4">
        {due ? (
          <div aria-live="polite" className="border-y-[1.5px] border-frame py-3">
            <p className="text-muted">
              <Trans>
                Joint {joints.indexOf(due) + 1} of {joints.length} · {tight} tight
              </Trans>
            </p>
            <p className="text-[1.4rem] font-bold leading-tight">{due.name}</p>
            <p className="pt-1 text-body text-ink-2">
              {due.sort}; {due.seal}; {due.tool}
            </p>
            {due.status === "not_tested" ? null : <p className="pt-1 text-stop">{jointWords()[due.status]}</p>}
          </div>
        ) : (
          <p className="flex items-center gap-2 border-y-[1.5px] border-frame py-3 text-lg font-semibold">
            <Trans>
              <Mark level="good" silent size={24} /> All {joints.length} tight
            </Trans>
          </p>
        )}
        {leaking.length > 0 ? (
          <div role="alert" className="border-l-6 border-stop bg-ember-wash px-3 py-2">
            <p className="flex items-center gap-2 text-lg font-bold text-stop">
              <Trans>
                <Mark silent size={24} level="stop" /> Shut the valve now
              </Trans>
            </p>
            <ul aria-label={t`Joints that leak`} data-testid="leaking-joints">
              {leaking.map((j) => (
                <li key={j.id}>
                  <button
                    type="button"
                    onClick={() => choose(j.id)}
                    className="flex min-h-12 w-full items-center gap-2 py-1 text-left"
                  >
                    <Mark silent size={16} level="stop" />
                    <span className="min-w-0 flex-1">
                      <Trans>
                        <b>{j.name}</b> leaks. Tighten it with the valve shut, open slowly, check it again.
                      </Trans>
                    </span>
                  </button>
                </li>
              ))}
            </ul>
          </div>
        ) : null}
        <p className="min-h-14 py-2">
          {last ? (
            <span className="flex items-center justify-between gap-2">
              <span>
                {nameOf(last.joint)}: {last.tight ? t`tight` : t`leaks`}
              </span>
              <Button data-testid="undo" large onClick={() => void undo()}>{t`Undo`}</Button>
            </span>
          ) : null}
        </p>
        <div role="group" aria-label={t`Checked with`} className="grid grid-cols-3 gap-1.5">
          {methods().map((m) => (
            <button
              key={m}
              type="button"
              aria-pressed={m === method}
              onClick={() => setMethod(m)}
              className={`min-h-12 rounded-sm border-[1.5px] px-1 text-body ${m === method ? "border-gas bg-gas-wash font-semibold" : "border-edge bg-card"}`}
            >
              {m}
            </button>
          ))}
        </div>
        {later.length > 0 ? (
          <details className="pt-3" data-testid="tested-later">
            <summary className="min-h-12 cursor-pointer content-center text-muted">
              {later.length === 1
                ? t`1 more joint is checked in a later step.`
                : t`${later.length} more joints are checked in later steps.`}
            </summary>
            <ul className="border-t border-rule">
              {later.map((j) => (
                <li key={j.id} className="border-b border-hair py-1.5">
                  {j.name}
                </li>
              ))}
            </ul>
          </details>
        ) : null}
        <details className="pt-3">
          <summary className="min-h-12 cursor-pointer content-center text-muted">
            <Trans>All {joints.length} joints</Trans>
          </summary>
          <ul className="border-t border-rule">
            {joints.map((j) => (
              <li key={j.id}>
                <button
                  type="button"
                  onClick={() => choose(j.id)}
                  className="flex min-h-12 w-full items-center gap-2 border-b border-hair py-1 text-left"
                >
                  <Mark
                    silent
                    size={16}
                    level={
                      j.status === "tight" ? "good" : j.status === "not_tested" || j.status === "too_early" ? "not_checked" : "stop"
                    }
                  />
                  <span className="min-w-0 flex-1">{j.name}</span>
                  <span className="text-small text-muted">
                    {jointWords()[j.status]}
                    {j.at && j.by ? `, ${j.by}, ${moment(j.at, "short")}` : ""}
                  </span>
                </button>
              </li>
            ))}
          </ul>
        </details>
      </div>
      <Act help={help}>
        {due ? (
          <div className="grid grid-cols-2 gap-2">
            <Button data-testid="leaks" large onClick={() => void test(due.id, false)}>{t`Leaks`}</Button>
            <Button data-testid="tight" large look="act" onClick={() => void test(due.id, true)}>{t`Tight`}</Button>
          </div>
        ) : (
          <Button large look="act" onClick={next}>{t`All tight: continue`}</Button>
        )}
      </Act>
    </>
  );
}
