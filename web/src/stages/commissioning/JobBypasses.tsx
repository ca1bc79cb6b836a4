import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Link } from "react-router";
import type { Run } from "../../api/client";
import { moment } from "../../app/context";
import { Mark } from "../../ui/Mark";

/** The bypasses open in any run of the job, on every screen of it until they are closed. */
export function JobBypasses({ runs }: { runs: Run[] }) {
  const open = runs
    .filter((r) => r.signed === null)
    .flatMap((r) => r.state.bypasses.filter((b) => b.closed_at === null).map((b) => ({ run: r, bypass: b })));
  if (open.length === 0) return null;
  return (
    <section
      data-testid="open-bypasses"
      role="alert"
      aria-label={t`Open bypasses`}
      className="border-b-[1.5px] border-frame bg-ember-wash px-5 py-2"
    >
      <ul>
        {open.map(({ run, bypass }) => (
          <li key={bypass.bypass} className="flex flex-wrap items-center gap-2.5">
            <Mark level="stop" size={18} />
            <span className="min-w-0 flex-1">
              <b className="text-ember-ink">
                <Trans>{run.procedure.unit_name}: a bypass is open.</Trans>
              </b>{" "}
              {bypass.what}, {bypass.why}
              {bypass.by ? `; ${bypass.by}` : ""}, {moment(bypass.opened_at, "short")}
            </span>
            <Link
              data-testid="to-unit"
              to={`/jobs/${run.job}/commissioning/${run.id}`}
              className="min-h-10 content-center font-medium text-ember-ink underline"
            >
              <Trans>
                Go to the unit<span className="sr-only">: {bypass.what}</span>
              </Trans>
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
