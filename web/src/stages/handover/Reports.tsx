// Reports: asked for, made by the server one after the other, fetched when they are made.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Select } from "@headlessui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { v7 as uuidv7 } from "uuid";
import { type ReportMade, answer, api } from "../../api/client";
import { lookAgain } from "../../api/lists";
import { moment } from "../../app/context";
import { Button } from "../../ui/controls";
import { useTried } from "./useTried";

export const audiences = () =>
  ({
    customer: {
      name: t`For the customer`,
      says: t`4 to 6 pages: what was built, how it was judged, what was measured and what comes next`,
    },
    inspector: {
      name: t`For the inspector`,
      says: t`Everything: each record, each verdict, and how each figure is worked out`,
    },
    crew: { name: t`For the crew`, says: t`How it is built, where to shut it off, what is due, and the order to stop it` },
  }) as const;
export type Audience = keyof ReturnType<typeof audiences>;

const LOOK_AGAIN_MS = 700;
const SELECT = "min-h-9 rounded-sm border-[1.5px] border-edge bg-card px-2";

/** The time zone of this device. */
export const zone = () => Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC";

export function Reports({ jobId }: { jobId: string }) {
  const client = useQueryClient();
  const key = ["reports", jobId];
  const found = useQuery({
    queryKey: key,
    queryFn: () => answer(api.GET("/api/jobs/{job_id}/reports", { params: { path: { job_id: jobId } } })),
    refetchInterval: ({ state }) => (state.data?.some((r) => r.state === "asked" || r.state === "making") ? LOOK_AGAIN_MS : false),
  });
  const [audience, setAudience] = useState<Audience>("customer");
  const [paper, setPaper] = useState<"A4" | "Letter">(() => (/^America\/(?!Argentina|Sao)/.test(zone()) ? "Letter" : "A4"));
  const { words, tried } = useTried(t`No signal. The server makes the reports.`);
  const ask = async () => {
    await tried(
      answer(
        api.POST("/api/jobs/{job_id}/reports", {
          params: { path: { job_id: jobId } },
          body: { id: uuidv7(), audience, paper, zone: zone() },
        }),
      ),
    );
    await lookAgain(client, key);
  };
  return (
    <section data-testid="reports" aria-label={t`Reports`} className="mb-5">
      <h2 className="border-b-[1.5px] border-frame pb-1 text-lg font-bold">{t`Report`}</h2>
      <div className="flex flex-wrap items-end gap-3 py-2">
        <label className="grid gap-1">
          <span className="text-small text-muted">{t`Readers`}</span>
          <Select value={audience} onChange={(e) => setAudience(e.target.value as Audience)} className={SELECT}>
            {(Object.keys(audiences()) as Audience[]).map((a) => (
              <option key={a} value={a}>
                {audiences()[a].name}
              </option>
            ))}
          </Select>
        </label>
        <label className="grid gap-1">
          <span className="text-small text-muted">{t`Paper`}</span>
          <Select
            data-testid="paper"
            value={paper}
            onChange={(e) => setPaper(e.target.value as "A4" | "Letter")}
            className={SELECT}
          >
            <option>{t`A4`}</option>
            <option>{t`Letter`}</option>
          </Select>
        </label>
        <Button data-testid="make-report" look="act" onClick={() => void ask()}>{t`Create report`}</Button>
      </div>
      <p className="text-small text-muted">
        <Trans>
          {audiences()[audience].says}. In your units, with times in {zone()}.
        </Trans>
      </p>
      {words ? (
        <p role="alert" className="pt-1 text-stop">
          {words}
        </p>
      ) : null}
      <ul className="mt-2 border-t border-rule">
        {(found.data ?? []).map((r) => (
          <ReportRow key={r.id} jobId={jobId} report={r} />
        ))}
      </ul>
    </section>
  );
}

function ReportRow({ jobId, report }: { jobId: string; report: ReportMade }) {
  const { name } = audiences()[report.audience];
  if (report.state === "made")
    return (
      <li className="border-b border-hair py-2">
        <a
          data-testid={`report-${report.audience}-${report.paper}`}
          href={`/api/jobs/${jobId}/reports/${report.id}.pdf`}
          download
          className="font-semibold underline decoration-ember decoration-2 underline-offset-3"
        >
          <Trans>
            {name}, {report.paper} (PDF)
          </Trans>
        </a>
        <span className="block text-small text-muted">
          <Trans>
            {report.pages} pages, {Math.max(1, Math.round((report.size ?? 0) / 1024))} kB · revision {report.revision} · made{" "}
            {moment(report.asked_at)} for {report.by}
          </Trans>
        </span>
      </li>
    );
  if (report.state === "failed")
    return (
      <li className="border-b border-hair py-2">
        <span className="font-semibold">
          <Trans>{name}: not made</Trans>
        </span>
        <span className="block text-small text-stop">{report.why}</span>
      </li>
    );
  return (
    <li className="border-b border-hair py-2">
      <span className="flex items-center gap-3">
        <span className="font-semibold">{name}</span>
        <span className="text-small text-muted">{report.doing}</span>
      </span>
      <progress
        value={report.done}
        max={100}
        aria-label={`${name}: ${report.doing}`}
        className="mt-1 block h-2 w-full max-w-md accent-ember"
      />
    </li>
  );
}
