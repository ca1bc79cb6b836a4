// Sharing a job: a link to read for a customer or an inspector, until a day; and giving it to another team.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Select } from "@headlessui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { lookAgain } from "../../api/lists";
import { moment, useSurroundings } from "../../app/context";
import { Button } from "../../ui/controls";
import { audiences, type Audience, zone } from "./Reports";
import { useTried } from "./useTried";

const DAY_MS = 86_400_000;
const lasts = () => ({ 7: t`a week`, 30: "30 days", 90: "90 days", 365: t`a year` }) as const;
const GIVEN_DAYS = 7;
const FIELD = "min-h-9 rounded-sm border-[1.5px] border-edge bg-card px-2";
const inDays = (days: number) => new Date(Date.now() + days * DAY_MS).toISOString();

export function Shares({ jobId }: { jobId: string }) {
  const { person } = useSurroundings();
  const client = useQueryClient();
  const key = ["shares", jobId];
  const found = useQuery({
    queryKey: key,
    queryFn: () => answer(api.GET("/api/jobs/{job_id}/shares", { params: { path: { job_id: jobId } } })),
  });
  const [audience, setAudience] = useState<Audience>("customer");
  const [days, setDays] = useState<keyof ReturnType<typeof lasts>>(30);
  const [to, setTo] = useState("");
  const [told, setTold] = useState<{ what: "read" | "take"; address: string } | null>(null);
  const { words, tried } = useTried(t`No signal. The server does the sharing.`);
  const make = async (what: "read" | "take") => {
    const made = await tried(
      answer(
        api.POST("/api/jobs/{job_id}/shares", {
          params: { path: { job_id: jobId } },
          body: { what, audience, given_to: to, ends_at: inDays(what === "take" ? GIVEN_DAYS : days), zone: zone() },
        }),
      ),
    );
    if (made) setTold({ what, address: made.address ?? "" });
    await lookAgain(client, key);
  };
  const revoke = async (id: string) => {
    await tried(answer(api.DELETE("/api/shares/{share_id}", { params: { path: { share_id: id } } })));
    setTold(null);
    await lookAgain(client, key);
  };
  if (person.role === "guest") return null;
  return (
    <section data-testid="sharing" aria-label={t`Sharing`} className="mb-5">
      <h2 className="border-b-[1.5px] border-frame pb-1 text-lg font-bold">{t`Share or transfer`}</h2>
      <p className="pt-2 text-small text-muted">{t`A secret link that shows the report until it expires. Whoever has the link can read it. You can withdraw it at any time.`}</p>
      <div className="flex flex-wrap items-end gap-3 py-2">
        <label className="grid gap-1">
          <span className="text-small text-muted">{t`Shows the report`}</span>
          <Select value={audience} onChange={(e) => setAudience(e.target.value as Audience)} className={FIELD}>
            {(Object.keys(audiences()) as Audience[]).map((a) => (
              <option key={a} value={a}>
                {audiences()[a].name.toLowerCase()}
              </option>
            ))}
          </Select>
        </label>
        <label className="grid gap-1">
          <span className="text-small text-muted">{t`Valid for`}</span>
          <Select
            value={days}
            onChange={(e) => setDays(Number(e.target.value) as keyof ReturnType<typeof lasts>)}
            className={FIELD}
          >
            {Object.entries(lasts()).map(([n, name]) => (
              <option key={n} value={n}>
                {name}
              </option>
            ))}
          </Select>
        </label>
        <label className="grid gap-1">
          <span className="text-small text-muted">{t`Given to`}</span>
          <input data-testid="given-to" value={to} maxLength={120} onChange={(e) => setTo(e.target.value)} className={FIELD} />
        </label>
        <Button data-testid="make-link" onClick={() => void make("read")}>{t`Create link`}</Button>
      </div>
      {words ? (
        <p role="alert" className="text-stop">
          {words}
        </p>
      ) : null}
      {told ? (
        <label className="grid gap-1 pb-2">
          <span className="font-medium">
            {told.what === "read"
              ? t`The link, shown only now`
              : t`Code with which a lead of the other team accepts the job, shown only now. It expires in ${GIVEN_DAYS} days.`}
          </span>
          <input
            data-testid="share-link"
            readOnly
            value={told.address}
            onFocus={(e) => e.target.select()}
            className="w-full rounded-sm border-[1.5px] border-edge bg-card px-2 py-1 font-mono text-small"
          />
        </label>
      ) : null}
      <ul className="border-t border-rule">
        {(found.data ?? []).map((s) => (
          <li key={s.id} className="flex items-center gap-2 border-b border-hair py-1 text-small">
            <span className="min-w-0 flex-1">
              {s.what === "take" ? t`Offered to another team` : audiences()[s.audience as Audience].name}
              {s.given_to ? `, ${s.given_to}` : ""}{" "}
              <span className="text-muted">
                <Trans>
                  by {s.by}, until {moment(s.ends_at)}
                  {s.what === "take"
                    ? ""
                    : s.read_at
                      ? t`, read ${s.reads} times, last ${moment(s.read_at, "short")}`
                      : t`, not read yet`}
                </Trans>
              </span>
            </span>
            <Button data-testid="take-back" look="quiet" onClick={() => void revoke(s.id)}>
              <Trans>
                Withdraw<span className="sr-only"> {s.given_to || s.audience}</span>
              </Trans>
            </Button>
          </li>
        ))}
      </ul>
      {person.role === "lead" ? (
        <p className="pt-2">
          <Button look="quiet" onClick={() => void make("take")}>{t`Transfer this job to another team`}</Button>
          <span className="block text-small text-muted">{t`The job moves with its whole history. A lead of the other team accepts it with a code you give them. Your team then no longer has it.`}</span>
        </p>
      ) : null}
    </section>
  );
}
