import { plural, t } from "@lingui/core/macro";
import { useState } from "react";
import { Button } from "../../../ui/controls";
import { Act } from "../Act";
import type { BodyProps, StateOf, StepOf } from "./screens";

export const kind = "tune";
export const word = () => t`Tune`;
export const told = (_step: StepOf<"tune">, state: StateOf<"tune">) =>
  state.falters_at === null ? "" : t`falters at ${state.falters_at}, set at ${state.turns ?? 0} turns`;
export const allowed = (step: StepOf<"tune">) =>
  t`at most ${step.most_at_once} turns at a time, then ${step.last_turns} out after it runs smoothly`;

const QUARTER = 0.25;

/** What to do with the screw now, by where the work stands. */
function order(step: StepOf<"tune">, state: StateOf<"tune">) {
  const rest = (step.last_turns ?? 1) - ((state.smooth_at ?? 0) - (state.turns ?? 0));
  const orders = {
    lean: { words: t`Turn it in until it falters`, sign: 1, turns: step.least_at_once ?? 1 },
    back: { words: t`It falters: turn it out until it is smooth`, sign: -1, turns: QUARTER },
    more: { words: plural(rest, { one: "Smooth: # turn more out", other: "Smooth: # turns more out" }), sign: -1, turns: rest },
    lock: { words: t`Hold the screw, tighten the jam nut`, sign: 0, turns: 0 },
    locked: { words: t`Locked`, sign: 0, turns: 0 },
  };
  return orders[state.phase ?? "lean"];
}

export function Body({ step, state, recording, next, help }: BodyProps<"tune">) {
  const now = order(step, state);
  const [turns, setTurns] = useState(now.turns);
  const [phase, setPhase] = useState(state.phase);
  if (phase !== state.phase) {
    setPhase(state.phase);
    setTurns(now.turns);
  }
  const most = now.sign > 0 ? (step.most_at_once ?? 1.5) : 4;
  const turn = (look: "smooth" | "falters") =>
    void recording.record("screw_turned", { step: step.id, turns: now.sign * turns, look });
  const lock = async () => {
    await recording.record("screw_locked", { step: step.id });
    next();
  };
  return (
    <>
      <div className="px-4 pb-4">
        <p className="pb-1 text-lg font-semibold text-ember-ink" role="status">
          {now.words}
        </p>
        <dl className="grid grid-cols-3 gap-2 border-y border-rule py-2 text-center">
          {[
            [t`Turned in`, state.turns ?? 0],
            [t`Falters at`, state.falters_at ?? "—"],
            [t`Smooth at`, state.smooth_at ?? "—"],
          ].map(([name, value]) => (
            <div key={name}>
              <dt className="text-small text-muted">{name}</dt>
              <dd className="text-big font-bold">{value}</dd>
            </div>
          ))}
        </dl>
        {now.sign === 0 ? null : (
          <div className="grid grid-cols-[3.5rem_1fr_3.5rem] items-center gap-2 pt-3">
            <Button large disabled={turns <= QUARTER} onClick={() => setTurns(turns - QUARTER)}>
              <span className="sr-only">{t`A quarter less`}</span>−
            </Button>
            <p className="text-center text-[2rem] font-bold" aria-label={t`Turns now`}>
              {turns} {now.sign > 0 ? t`in` : t`out`}
            </p>
            <Button data-testid="more-turn" large disabled={turns >= most} onClick={() => setTurns(turns + QUARTER)}>
              <span className="sr-only">{t`A quarter more`}</span>+
            </Button>
          </div>
        )}
      </div>
      <Act help={help}>
        {now.sign === 0 ? (
          <Button data-testid="lock" large look="act" onClick={() => void lock()}>{t`Locked, still smooth`}</Button>
        ) : (
          <div className="grid grid-cols-2 gap-2">
            <Button data-testid="falters" large onClick={() => turn("falters")}>{t`Falters`}</Button>
            <Button data-testid="smooth" large look="act" onClick={() => turn("smooth")}>{t`Smooth`}</Button>
          </div>
        )}
      </Act>
    </>
  );
}
