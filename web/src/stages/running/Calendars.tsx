// Calendars of what is due: a secret address for a phone's or an office's calendar, told once, taken back at any time.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Problem, answer, api } from "../../api/client";
import { lookAgain } from "../../api/lists";
import { moment } from "../../app/context";
import { Button } from "../../ui/controls";

const scopes = () => ({ job: t`This job`, team: t`All of the team`, person: t`All I see` }) as const;
type Scope = keyof ReturnType<typeof scopes>;

interface CalendarsProps {
  /** The job that is open, null on a page of the whole team. */
  job: string | null;
}

export function Calendars({ job }: CalendarsProps) {
  const Heading = job === null ? "h2" : "h3";
  const client = useQueryClient();
  const found = useQuery({ queryKey: ["feeds"], queryFn: () => answer(api.GET("/api/feeds")) });
  const [made, setMade] = useState<string | null>(null);
  const [trouble, setTrouble] = useState("");
  const tried = async (act: Promise<unknown>) => {
    setTrouble("");
    try {
      await act;
      await lookAgain(client, ["feeds"]);
    } catch (problem) {
      if (!(problem instanceof Problem)) throw problem;
      setTrouble(problem.status === 0 ? t`No signal. The server makes the calendars.` : `${problem.message}. ${problem.detail}`);
    }
  };
  const make = (scope: Scope) =>
    tried(
      answer(api.POST("/api/feeds", { body: { scope, job: scope === "job" ? job : null } })).then((feed) => setMade(feed.address)),
    );
  const revoke = (id: string) =>
    tried(answer(api.DELETE("/api/feeds/{feed_id}", { params: { path: { feed_id: id } } })).then(() => setMade(null)));
  return (
    <section data-testid="calendar" aria-label={t`Calendar`} className="no-print mt-3 border-t border-rule pt-2">
      <Heading className="font-bold">{t`In your calendar`}</Heading>
      <p className="pb-1 text-small text-muted">{t`A secret address that your calendar reads by itself. It shows what is due, with alarms. Whoever has it sees what you see.`}</p>
      <div className="flex flex-wrap gap-2">
        {(Object.keys(scopes()) as Scope[])
          .filter((s) => s !== "job" || job !== null)
          .map((s) => (
            <Button key={s} data-testid={`feed-${s}`} onClick={() => void make(s)}>
              {scopes()[s]}
            </Button>
          ))}
      </div>
      {trouble ? (
        <p role="alert" className="pt-1 text-stop">
          {trouble}
        </p>
      ) : null}
      {made ? (
        <label className="grid gap-1 pt-2">
          <span className="font-medium">{t`The address, shown only now. Paste it into your calendar as a subscription`}</span>
          <input
            data-testid="feed-address"
            readOnly
            value={made}
            onFocus={(e) => e.target.select()}
            className="w-full rounded-sm border-[1.5px] border-edge bg-card px-2 py-1 font-mono text-small"
          />
        </label>
      ) : null}
      <ul className="pt-1">
        {(found.data ?? []).map((f) => (
          <li key={f.id} className="flex items-center gap-2 border-b border-hair py-1 text-small">
            <span className="min-w-0 flex-1">
              {scopes()[f.scope]}: {f.name}{" "}
              <span className="text-muted">
                <Trans>
                  made {moment(f.made_at)}
                  {f.read_at ? t`, read last ${moment(f.read_at, "short")}` : t`, not read yet`}
                </Trans>
              </span>
            </span>
            <Button data-testid="take-back" look="quiet" onClick={() => void revoke(f.id)}>
              <Trans>
                Withdraw<span className="sr-only"> the calendar of {f.name}</span>
              </Trans>
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
