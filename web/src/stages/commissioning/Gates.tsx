import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Link } from "react-router";
import type { Gate, Run } from "../../api/client";
import { useQuantities } from "../../app/context";
import { Mark } from "../../ui/Mark";

interface GatesProps {
  run: Run;
  /** Go to a step of this run; without it the way there is an address. */
  look?: (step: string) => void;
}

/** The step at which a gate is closed, null where it lies elsewhere. */
function stepOf(gate: Gate, run: Run): string | null {
  const { steps } = run.procedure;
  if (steps.some((s) => s.id === gate.subject)) return gate.subject;
  const testing = steps.filter((s) => s.kind === "test" && s.joints.includes(gate.subject));
  const closing = steps.filter((s) => s.kind === "bypass" && s.act === "close" && s.bypass === gate.subject);
  return (testing.at(-1) ?? closing.at(-1))?.id ?? null;
}

/** The gates that hold back a sign-off, each with its reason and a way there; a good word where there is none. */
export function Gates({ run, look }: GatesProps) {
  const q = useQuantities();
  if (run.gates.length === 0)
    return (
      <p className="flex items-center gap-2">
        <Mark level="good" silent /> <span data-testid="no-gate">{t`Nothing blocks the sign-off.`}</span>
      </p>
    );
  const way =
    "min-h-12 shrink-0 content-center px-2 leading-none font-medium text-ember-ink underline decoration-2 underline-offset-3";
  return (
    <ul aria-label={t`What blocks the sign-off`}>
      {run.gates.map((g) => {
        const step = stepOf(g, run);
        return (
          <li key={`${g.code} ${g.subject}`} data-gate={g.code} className="flex items-start gap-2 border-t border-hair py-1.5">
            <Mark level="stop" silent />
            <span className="min-w-0 flex-1">
              <span className="block font-medium">{g.name}</span>
              <span className="block text-small text-ink-2">{q.say(g.say, g.values)}</span>
            </span>
            {step === null ? (
              g.code === "plan_has_stop" ? (
                <Link to={`/jobs/${run.job}/siting`} className={way}>{t`Go to the plan`}</Link>
              ) : null
            ) : look ? (
              <button type="button" className={way} onClick={() => look(step)}>
                <Trans>
                  Go to the step<span className="sr-only">: {g.name}</span>
                </Trans>
              </button>
            ) : (
              <Link to={`/jobs/${run.job}/commissioning/${run.id}?step=${step}`} className={way}>
                <Trans>
                  Go to the step<span className="sr-only">: {g.name}</span>
                </Trans>
              </Link>
            )}
          </li>
        );
      })}
    </ul>
  );
}
