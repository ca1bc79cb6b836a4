// One machine, opened by the code that hangs at it: what is next here, what to do, its cards.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Link, useParams } from "react-router";
import { useJob, useJobStore, useRecords } from "../job/context";
import { ChangeOver } from "../stages/running/ChangeOver";
import { useStopping } from "../stages/running/StopOrder";
import { useBegin } from "../stages/commissioning/useBegin";
import { Button, Message } from "../ui/controls";
import { Mark } from "../ui/Mark";
import { useQuantities } from "../app/context";

const WAY = "flex min-h-14 items-center rounded-sm border-[1.5px] border-frame bg-card px-4 text-lg font-medium";
const cardsWords = () =>
  [
    { kind: "night", words: t`Night card` },
    { kind: "start", words: t`Start card` },
    { kind: "first_aid", words: t`First aid` },
    { kind: "owner", words: t`Owner’s sheet` },
  ] as const;

export function UnitPage() {
  const { jobId = "", runId: unit = "" } = useParams();
  const { plan } = useJob();
  const { runs, machines } = useRecords();
  const guest = useJobStore().role === "guest";
  const { begin, trouble } = useBegin(unit);
  const q = useQuantities();
  const stopping = useStopping();
  const base = `/jobs/${jobId}`;
  const machine = plan?.machines.find((m) => m.id === unit);
  if (plan && !machine)
    return (
      <main className="p-5">
        <Message title={t`This machine is no longer in the job`}>
          <Link className="underline" to={`${base}/commissioning`}>{t`Open commissioning`}</Link>
        </Message>
      </main>
    );
  if (!machine) return null;
  const going = runs.filter((r) => r.unit === unit && !r.signed && r.state.current !== null);
  const stands = machines.find((m) => m.machine === unit);
  const acts = stopping?.order.filter((a) => a.of === unit) ?? [];
  return (
    <main className="mx-auto w-full max-w-xl px-5 py-4 text-[1.0625rem]">
      <h1 className="text-big font-bold">{machine.name}</h1>
      <p className="flex items-center gap-2 pb-3 text-ink-2">
        <Mark level={stands?.state === "signed" ? "good" : "caution"} size={16} silent />
        {stands?.state === "signed"
          ? t`Signed off`
          : stands?.state === "begun"
            ? t`${stands.gates.length} items block the sign-off`
            : t`Not commissioned yet`}
      </p>
      <nav aria-label={t`At this unit`} className="grid gap-2">
        {going.map((r) => (
          <Link key={r.id} className={`${WAY} border-ember bg-ember text-on-ember`} to={`${base}/commissioning/${r.id}`}>
            <Trans>Continue: {r.procedure.title}</Trans>
          </Link>
        ))}
        {going.length === 0 && stands?.state === "not_begun" && machine.procedure !== null && !guest ? (
          <Button data-testid="begin" large look="act" onClick={() => void begin()}>{t`Start commissioning`}</Button>
        ) : null}
        {guest ? null : <ChangeOver machine={machine} look={WAY} />}
        <Link className={WAY} to={`${base}/faults/${unit}`}>{t`Find a fault`}</Link>
        <Link data-testid="log-visit" className={WAY} to={`${base}/running`}>{t`Log a visit`}</Link>
      </nav>
      {trouble ? (
        <p role="alert" className="pt-2 text-stop">
          {trouble}
        </p>
      ) : null}
      {acts.length > 0 ? (
        <section aria-label={t`How to stop it`} className="pt-4">
          <h2 className="border-b-[1.5px] border-frame font-bold">{t`How to stop it`}</h2>
          <ol className="list-decimal pl-6">
            {acts.map((a, n) => (
              <li key={n} className="py-1">
                {q.say(a.say, a.values)} <span className="text-muted">{q.say(a.because, a.values)}</span>
              </li>
            ))}
          </ol>
        </section>
      ) : null}
      <section aria-label={t`Cards`} className="pt-4">
        <h2 className="border-b-[1.5px] border-frame font-bold">{t`Cards to hang at this unit`}</h2>
        <ul>
          {cardsWords().map((c) => (
            <li key={c.kind} className="flex items-center gap-5 border-b border-hair py-1.5">
              <span className="flex-1 font-medium">{c.words}</span>
              {(["A5", "A4"] as const).map((size) => (
                <a
                  key={size}
                  data-testid={`card-${c.kind}-${size}`}
                  download
                  className="min-h-10 content-center underline decoration-ember decoration-2 underline-offset-3"
                  href={`/api/jobs/${jobId}/cards/${unit}/${c.kind}.pdf?size=${size}`}
                >
                  {size}
                  <span className="sr-only"> {c.words}</span>
                </a>
              ))}
            </li>
          ))}
        </ul>
      </section>
    </main>
  );
}
