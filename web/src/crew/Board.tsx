// The board: all that runs, what runs out first on top; and the day as a route of what is due.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { type BoardLine, Problem, type StopOfDay, answer, api } from "../api/client";
import { Calendars } from "../stages/running/Calendars";
import { farOff } from "../stages/running/farOff";
import { Button, Message, Skeleton } from "../ui/controls";
import { Mark } from "../ui/Mark";
import { moment } from "../app/context";
import { nowMs } from "../outbox/time";

const AGAIN_MS = 60_000;
const DAY_MS = 86_400_000;
const SOON_S = 86_400;

const seconds = (at: string) => Date.parse(at) / 1000;

export function Board() {
  const [route, showRoute] = useState(false);
  return (
    <div className="flex-1">
      <header className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b-[1.5px] border-frame bg-rail px-5 py-2.5">
        <Link data-testid="to-jobs" to="/" className="no-print underline">{t`Jobs`}</Link>
        <h1 className="mr-auto text-big font-bold">{route ? t`The day as a route` : t`Board`}</h1>
        <span className="no-print flex flex-wrap gap-2">
          <Button onClick={() => showRoute(!route)}>{route ? t`Board` : t`Plan the day`}</Button>
          <Button onClick={() => print()}>{t`Print`}</Button>
        </span>
      </header>
      <main className="mx-auto max-w-5xl px-5 py-4 print:max-w-none">
        {route ? <Route /> : <Lines />}
        <Calendars job={null} />
      </main>
    </div>
  );
}

function Lines() {
  const found = useQuery({ queryKey: ["board"], queryFn: () => answer(api.GET("/api/board")), refetchInterval: AGAIN_MS });
  if (found.isError) return <Silent problem={found.error} />;
  if (!found.data) return <Skeleton />;
  if (found.data.length === 0)
    return (
      <Message title={t`No job is running yet`}>
        <Trans>
          A job appears here after its first visit.
          <Link className="underline" to="/">
            Open a job
          </Link>{" "}
          and log a visit in Running.
        </Trans>
      </Message>
    );
  return (
    <>
      <p className="pb-2 text-small text-muted">{t`The first to run out is at the top. Times are the earliest likely.`}</p>
      <ul className="border-t-[1.5px] border-frame">
        {found.data.map((line) => (
          <Line key={line.id} line={line} />
        ))}
      </ul>
    </>
  );
}

function Line({ line }: { line: BoardLine }) {
  const out = line.change_over_at === null ? null : seconds(line.change_over_at);
  const now = nowMs() / 1000;
  const urgent = out !== null && out - now < SOON_S;
  const late = [
    line.bypasses > 0 ? `${line.bypasses} ${line.bypasses === 1 ? "bypass" : "bypasses"} open` : "",
    line.test_overdue && line.test_at ? t`safety test ${farOff(seconds(line.test_at), now)}` : "",
    line.gone_quiet && line.visit_at ? t`no log for a while: visit ${farOff(seconds(line.visit_at), now)}` : "",
  ].filter(Boolean);
  return (
    <li className="grid grid-cols-[1fr_auto] items-center gap-x-4 gap-y-1 border-b border-rule py-2 sm:grid-cols-[minmax(0,1.4fr)_minmax(0,1.2fr)_auto]">
      <Link to={`/jobs/${line.id}/running`} className="min-w-0 hover:underline">
        <span className="block text-base font-semibold sm:truncate">{line.name}</span>
        <span className="block text-small text-muted sm:truncate">{line.place}</span>
      </Link>
      <span className="max-sm:col-span-2 max-sm:row-start-2">
        <span className={`block font-medium ${urgent ? "text-ember-ink" : ""}`}>
          {out === null
            ? t`No change-over due`
            : out <= now
              ? t`Change-over ${farOff(out, now)}`
              : t`Change over ${farOff(out, now)}, ${moment(out, "short")}`}
        </span>
        {late.map((words) => (
          <span key={words} className="flex items-center gap-1.5 text-small text-ember-ink">
            <Mark level="caution" size={14} silent /> {words}
          </span>
        ))}
        <span className="block text-small text-muted">
          {line.logged_at ? t`last visit ${moment(line.logged_at, "short")}` : ""}
          {line.visit_at && !line.gone_quiet ? t` · next visit ${farOff(seconds(line.visit_at), now)}` : ""}
        </span>
      </span>
      <Link
        data-testid="log-visit"
        to={`/jobs/${line.id}/visit`}
        className="no-print inline-flex min-h-12 items-center rounded-sm border-[1.5px] border-frame bg-card px-4 font-semibold"
      >
        <Trans>
          Log a visit<span className="sr-only">: {line.name}</span>
        </Trans>
      </Link>
    </li>
  );
}

const endOfDay = (ahead: number) => {
  const end = new Date(nowMs() + ahead * DAY_MS);
  end.setHours(23, 59, 59, 0);
  return end.toISOString();
};

function Route() {
  const [ahead, setAhead] = useState(0);
  const until = endOfDay(ahead);
  const found = useQuery({
    queryKey: ["day", until.slice(0, 10)],
    queryFn: () => answer(api.GET("/api/board/day", { params: { query: { until } } })),
    refetchInterval: AGAIN_MS,
  });
  return (
    <>
      <div className="no-print flex flex-wrap gap-2 pb-3">
        {[t`Today`, t`Today and tomorrow`, t`The next three days`].map((words, n) => (
          <Button key={words} look={ahead === n ? "act" : "plain"} onClick={() => setAhead(n)}>
            {words}
          </Button>
        ))}
      </div>
      <p className="pb-2 text-muted">
        <Trans>Due until {moment(until)}, the most urgent job first. Choose your own route.</Trans>
      </p>
      {found.isError ? <Silent problem={found.error} /> : found.data ? <Stops stops={found.data} /> : <Skeleton />}
    </>
  );
}

function Stops({ stops }: { stops: StopOfDay[] }) {
  if (stops.length === 0) return <Message title={t`Nothing is due in that time`}>{t`Look further ahead.`}</Message>;
  return (
    <ol className="border-t-[1.5px] border-frame">
      {stops.map((stop, n) => (
        <li key={stop.id} className="grid break-inside-avoid grid-cols-[2rem_1fr] gap-2 border-b border-rule py-2">
          <span className="text-big font-bold text-muted">{n + 1}</span>
          <div>
            <Link to={`/jobs/${stop.id}/running`} className="font-semibold hover:underline">
              {stop.name}
            </Link>
            <span className="text-muted"> · {stop.place}</span>
            <ul>
              {stop.items.map((i) => (
                <li key={i.key} className="grid grid-cols-[1.25rem_1fr_auto] gap-2 text-body">
                  <span aria-hidden="true" className="mt-1 size-3.5 border-[1.5px] border-edge" />
                  <span>
                    {i.title}
                    {i.name ? <span className="text-muted"> · {i.name}</span> : null}
                  </span>
                  <span className={i.at_s * 1000 <= nowMs() ? "text-ember-ink" : "text-muted"}>
                    {i.at_s * 1000 <= nowMs() ? farOff(i.at_s) : moment(i.at_s, "short")}
                  </span>
                </li>
              ))}
            </ul>
          </div>
        </li>
      ))}
    </ol>
  );
}

function Silent({ problem }: { problem: Error }) {
  const silent = problem instanceof Problem && problem.status === 0;
  return (
    <Message failed title={silent ? t`No signal: the board comes from the server` : problem.message}>
      {silent ? t`Each job saved on this device still shows in Running what is due.` : t`Load the page again.`}
    </Message>
  );
}
