// From what one notices to its causes, in the order in which to look; what the plan and the readings rule out is struck through.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect, useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import type { Cause, Faults, Run, RunEvent } from "../../api/client";
import { moment, useQuantities, useSurroundings } from "../../app/context";
import { countedOf, useDraft, useJob, useJobStore, useRecords } from "../../job/context";
import { ask } from "../../engine/ask";
import { Stale } from "../../engine/engine";
import { nowMs } from "../../outbox/time";
import { Message, Skeleton } from "../../ui/controls";
import { Mark } from "../../ui/Mark";

/** The fault finder of one machine: `/jobs/…/faults/MACHINE?step=…&symptom=…`. */
export function FaultFinder() {
  const { jobId = "", runId: unit = "" } = useParams();
  const [asked, ask] = useSearchParams();
  const { plan } = useJob();
  const { runs } = useRecords();
  const lasts_s = useSurroundings().vocabulary.notice_lasts_s;
  const [step, symptom] = [asked.get("step") ?? "", asked.get("symptom") ?? ""];
  const run =
    runs.find((r) => r.id === asked.get("run")) ?? runs.find((r) => r.unit === unit && r.procedure.purpose === "commission");
  const [kept, keep] = useDraft(`faults.${unit}.${symptom}.noticed`);
  const [, clearLooked] = useDraft(`faults.${unit}.${symptom}`);
  const noticed = symptom === "" || kept === "" ? null : Number(kept);
  const noticedNow = () => {
    clearLooked("");
    keep(`${nowMs() / 1000}`);
  };
  useEffect(() => {
    // A notice of another day is none of now: what was looked at then may be otherwise.
    if (symptom !== "" && (kept === "" || nowMs() / 1000 - Number(kept) > lasts_s)) noticedNow();
  });
  const { found, trouble } = useFaults(unit, run, step, symptom, noticed);
  const machine = plan?.machines.find((m) => m.id === unit);
  const looked = found?.symptoms.find((s) => s.key === symptom);
  const base = `/jobs/${jobId}`;
  const choose = (key: string) => ask(key === "" ? without(asked, "symptom") : { ...Object.fromEntries(asked), symptom: key });
  return (
    <main className="mx-auto w-full max-w-3xl px-5 py-4">
      <p className="text-muted">
        <Trans>
          Fault finder · {machine?.name ?? unit}
          {run ? (
            <>
              {" · "}
              <Link
                className="underline"
                to={`${base}/commissioning/${run.id}${step ? `?step=${step}` : ""}`}
              >{t`Back to the unit`}</Link>
            </>
          ) : null}
        </Trans>
      </p>
      {trouble ? (
        <Message failed title={t`The fault finder has no answer`}>
          {trouble}
        </Message>
      ) : null}
      {!found && !trouble ? <Skeleton /> : null}
      {found && !looked ? <Symptoms found={found} choose={choose} /> : null}
      {found && looked ? (
        <>
          <h1 className="text-big font-bold">{looked.title}</h1>
          <p className="flex flex-wrap items-center gap-x-4 text-muted">
            {noticed === null ? null : (
              <span>
                <Trans>Noticed {moment(noticed)}</Trans>
              </span>
            )}
            <button
              type="button"
              data-testid="noticed-anew"
              className="min-h-10 underline"
              onClick={noticedNow}
            >{t`Start again: it came back`}</button>
            <button type="button" className="min-h-10 underline" onClick={() => choose("")}>{t`Different symptom`}</button>
          </p>
          {looked.people_out ? (
            <p role="alert" className="my-2 flex gap-3 border-2 border-stop bg-ember-wash p-3 font-semibold">
              <Mark level="stop" size={26} /> {looked.people_out}
            </p>
          ) : null}
          <Telling says={found.telling} to={`${base}/running`} />
          <Causes key={symptom} causes={found.causes} draft={`faults.${unit}.${symptom}`} base={base} run={run} />
        </>
      ) : null}
    </main>
  );
}

const without = (asked: URLSearchParams, name: string) => Object.fromEntries([...asked].filter(([key]) => key !== name));

/** What the core says, asked anew whenever what it stands on changes. */
function useFaults(
  unit: string,
  run: Run | undefined,
  step: string,
  symptom: string,
  noticed: number | null,
): { found: Faults | null; trouble: string } {
  const { device } = useSurroundings();
  const { id } = useJobStore();
  const { document } = useJob();
  const { entries } = useRecords();
  const [found, setFound] = useState<Faults | null>(null);
  const [trouble, setTrouble] = useState("");
  useEffect(() => {
    let old = false;
    const look = async () => {
      const records = run ? await device.db.records.where("owner").equals(run.id).toArray() : [];
      const events = records.filter((r) => r.refusal === null).map((r) => r.body as RunEvent);
      return ask(
        "faults",
        {
          document,
          unit,
          procedure: run?.procedure ?? null,
          events,
          entries: countedOf(entries),
          step,
          symptom,
          noticed_s: noticed,
          now_s: nowMs() / 1000,
        },
        "faults",
      );
    };
    look().then(
      (made) => {
        if (old) return;
        setTrouble("");
        setFound(made);
      },
      (problem: unknown) =>
        old ||
        problem instanceof Stale ||
        setTrouble(problem instanceof Error ? problem.message : t`The fault finder did not answer.`),
    );
    return () => {
      old = true;
    };
  }, [device, id, unit, run, document, entries, step, symptom, noticed]);
  return { found, trouble };
}

function Symptoms({ found, choose }: { found: Faults; choose: (key: string) => void }) {
  const here = found.symptoms.filter((s) => s.here);
  const danger = found.symptoms.filter((s) => !s.here && s.people_out);
  const rest = found.symptoms.filter((s) => !s.here && !s.people_out);
  const groups = [
    { title: t`At this step`, list: here },
    { title: t`Gas or CO: people first`, list: danger },
    { title: here.length > 0 ? t`Other symptoms` : t`What do you notice?`, list: rest },
  ];
  return (
    <>
      <h1 className="text-big font-bold">{t`What is wrong?`}</h1>
      {groups
        .filter((g) => g.list.length > 0)
        .map((g) => (
          <section key={g.title} className="pt-3">
            <h2 className="pb-1 font-semibold text-muted">{g.title}</h2>
            <ul className="grid gap-2 sm:grid-cols-2">
              {g.list.map((s) => (
                <li key={s.key}>
                  <button
                    type="button"
                    onClick={() => choose(s.key)}
                    className={`flex min-h-14 w-full items-center gap-3 rounded-sm border-[1.5px] bg-card px-3 text-left text-lg font-medium ${s.people_out ? "border-stop" : "border-frame"}`}
                  >
                    {s.people_out ? <Mark level="stop" size={22} silent /> : null}
                    {s.title}
                  </button>
                </li>
              ))}
            </ul>
          </section>
        ))}
    </>
  );
}

/** Which reading tells apart what all comes to the same so far. */
function Telling({ says, to }: { says: string[]; to: string }) {
  const [first] = says;
  if (first === undefined) return null;
  return (
    <p data-testid="telling" className="my-2 border-l-4 border-frame bg-card px-3 py-2">
      <Trans>
        Several causes fit what was read. <strong className="font-semibold">{first}</strong> Then{" "}
        <Link className="underline" to={to}>
          record it in the log
        </Link>
        .
      </Trans>
    </p>
  );
}

interface CausesProps {
  causes: Cause[];
  /** Where it is kept which causes were looked at and were not it. */
  draft: string;
  base: string;
  run: Run | undefined;
}

/** The causes; the first that nothing rules out is the next to look at. */
function Causes({ causes, draft, base, run }: CausesProps) {
  const [kept, keep] = useDraft(draft);
  const looked = new Set(kept.split(" ").filter(Boolean));
  const mark = (key: string) => {
    const now = new Set(looked);
    if (!now.delete(key)) now.add(key);
    keep([...now].join(" "));
  };
  const next = causes.find((c) => c.ruled_out === null && !looked.has(c.key));
  return (
    <>
      {next ? null : (
        <Message
          title={t`Nothing on this list is left`}
        >{t`Have a qualified technician look at it, and tag the unit out of use until then.`}</Message>
      )}
      <ol className="border-t-[1.5px] border-frame">
        {causes.map((c) => (
          <CauseRow
            key={c.key}
            cause={c}
            isNext={c === next}
            looked={looked.has(c.key)}
            mark={() => mark(c.key)}
            base={base}
            run={run}
          />
        ))}
      </ol>
    </>
  );
}

interface CauseRowProps {
  cause: Cause;
  isNext: boolean;
  /** It was looked at and was not it. */
  looked: boolean;
  mark: () => void;
  base: string;
  run: Run | undefined;
}

function CauseRow({ cause, isNext, looked, mark, base, run }: CauseRowProps) {
  const q = useQuantities();
  const [open, setOpen] = useState(false);
  const out = cause.ruled_out !== null || looked;
  const whole = isNext || open;
  return (
    <li
      data-cause={cause.key}
      data-out={out}
      className={`border-b border-rule py-2.5 ${isNext ? "border-l-4 border-l-ember pl-3" : ""}`}
    >
      <button
        type="button"
        aria-expanded={whole}
        onClick={() => setOpen(!open)}
        className="flex min-h-10 w-full items-center gap-2 text-left"
      >
        <span className={`text-lg font-semibold ${out ? "text-muted line-through" : ""}`}>{cause.title}</span>
        {out ? (
          <span className="ml-auto shrink-0 text-small text-muted">{looked ? t`checked: not the cause` : t`ruled out`}</span>
        ) : null}
      </button>
      {cause.pointed_at ? (
        <p className="flex gap-2 text-body">
          <Mark level="caution" size={17} silent /> {q.say(cause.pointed_at.say, cause.pointed_at.values)}
        </p>
      ) : null}
      {cause.ruled_out ? <p className="text-body text-ink-2">{q.say(cause.ruled_out.say, cause.ruled_out.values)}</p> : null}
      {cause.spoke_against ? (
        <p className="text-small text-muted">
          {q.say(cause.spoke_against.say, cause.spoke_against.values)}{" "}
          {cause.spoke_against.at_s === null
            ? t`That is as planned, so it rules nothing out.`
            : t`That was ${moment(cause.spoke_against.at_s)}, before the fault was noticed. It rules nothing out now.`}
        </p>
      ) : null}
      {whole && cause.people_out && !out ? (
        <p role="alert" className="my-1 flex gap-2.5 border-l-4 border-stop bg-ember-wash px-3 py-2 font-semibold">
          <Mark level="stop" size={22} silent /> {cause.people_out}
        </p>
      ) : null}
      {whole && cause.caution && !out ? (
        <p className="my-1 flex gap-2.5 border-l-4 border-caution bg-card px-3 py-2 font-semibold">
          <Mark level="caution" size={20} silent /> {cause.caution}
        </p>
      ) : null}
      {whole ? (
        <dl className="grid gap-x-3 gap-y-1 pt-1 sm:grid-cols-[7.5rem_1fr]">
          <dt className="text-muted">{t`Check`}</dt>
          <dd>
            {cause.check}{" "}
            <span className="text-muted">
              <Trans>Tools: {cause.tool}.</Trans>
            </span>
          </dd>
          <dt className="text-muted">{t`Ruled out if`}</dt>
          <dd>{cause.rules_out}</dd>
          <dt className="text-muted">{t`Remedy`}</dt>
          <dd>{cause.remedy}</dd>
          {cause.redo.length > 0 ? (
            <>
              <dt className="text-muted">{t`Then again`}</dt>
              <dd className="flex flex-wrap gap-x-4">
                {cause.redo.map((r) =>
                  run && !run.signed ? (
                    <Link
                      key={r.step}
                      className="underline decoration-ember decoration-2 underline-offset-3"
                      to={`${base}/commissioning/${run.id}?step=${r.step}`}
                    >
                      {r.title}
                    </Link>
                  ) : (
                    <span key={r.step}>{r.title}</span>
                  ),
                )}
              </dd>
            </>
          ) : null}
          <dt className="sr-only">{t`Checked`}</dt>
          <dd className="pt-1 sm:col-span-2">
            <button
              data-testid="not-it"
              type="button"
              onClick={mark}
              className="min-h-12 rounded-sm border-[1.5px] border-frame bg-card px-4 font-medium"
            >
              {looked ? t`Put it back on the list` : t`Checked: not the cause`}
            </button>
          </dd>
        </dl>
      ) : null}
    </li>
  );
}
