// Signing the job off: what stands open with a way to each, who may, a name typed or drawn, and what was sealed.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Checkbox } from "@headlessui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useLiveQuery } from "dexie-react-hooks";
import { useState } from "react";
import { Link } from "react-router";
import { v7 as uuidv7 } from "uuid";
import { type HandingOver, Problem, answer, api } from "../../api/client";
import { lookAgain } from "../../api/lists";
import { moment, useQuantities, useSurroundings } from "../../app/context";
import { Button, Message, Skeleton } from "../../ui/controls";
import { Mark } from "../../ui/Mark";
import { SignaturePad, type Strokes } from "./SignaturePad";
import { useTried } from "./useTried";

type Open = HandingOver["open"][number];

/** How much of the job waits here, and has not reached the server. */
function useWaiting(jobId: string): number {
  const { device } = useSurroundings();
  return useLiveQuery(() => device.db.outbox.where("job").equals(jobId).count(), [device, jobId]) ?? 0;
}

/** Where the sign-off of the job stands, asked of the server again whenever something has reached it. */
function useHandingOver(jobId: string, waiting: number) {
  return useQuery({
    queryKey: ["handing-over", jobId, waiting],
    queryFn: () => answer(api.GET("/api/jobs/{job_id}/handing-over", { params: { path: { job_id: jobId } } })),
  });
}

export function SignOff({ jobId }: { jobId: string }) {
  const waiting = useWaiting(jobId);
  const found = useHandingOver(jobId, waiting);
  if (found.data === undefined)
    return (
      <section data-testid="sign-off" aria-label={t`Sign-off`}>
        {found.error ? <NotKnown problem={found.error} /> : <Skeleton lines={2} />}
      </section>
    );
  const { open, signed, gone_on: goneOn } = found.data;
  const holding = open.filter((o) => o.holds);
  return (
    <section data-testid="sign-off" aria-label={t`Sign-off`} className="mb-5">
      <h2 className="border-b-[1.5px] border-frame pb-1 text-lg font-bold">{t`Sign-off`}</h2>
      {signed ? <Signed jobId={jobId} signed={signed} goneOn={goneOn} /> : null}
      {holding.length > 0 ? (
        <>
          <p className="flex items-center gap-2 py-2 font-semibold">
            <Trans>
              <Mark level="stop" /> {holding.length === 1 ? t`1 item blocks` : t`${holding.length} items block`} the sign-off
            </Trans>
          </p>
          <ul className="border-t border-rule">
            {holding.map((o) => (
              <OpenThing key={o.key} open={o} jobId={jobId} />
            ))}
          </ul>
        </>
      ) : signed && goneOn.length === 0 ? null : waiting > 0 ? (
        <p className="py-2">
          <Trans>
            {waiting === 1 ? t`One change waits` : t`${waiting} changes wait`} on this device. The job can be signed off when the
            server has all of them.
          </Trans>
        </p>
      ) : (
        <SignForm jobId={jobId} standing={found.data} again={signed !== null} />
      )}
    </section>
  );
}

/** Why nobody knows here what stands open. */
function NotKnown({ problem }: { problem: Error }) {
  if (problem instanceof Problem && problem.status !== 0)
    return (
      <Message failed title={problem.message}>
        {problem.detail}
      </Message>
    );
  return <p className="text-small">{t`No signal. The server knows all open items, and each stage shows its own.`}</p>;
}

/** One open thing, with the way to it. */
function OpenThing({ open, jobId }: { open: Open; jobId: string }) {
  const q = useQuantities();
  return (
    <li className="border-b border-hair">
      <Link to={`/jobs/${jobId}/${open.stage}#${open.at}`} className="flex min-h-11 items-center gap-2 py-1 hover:underline">
        {q.say(open.say, open.values)}
        <span className="ml-auto shrink-0 text-small text-ember-ink underline">{t`Go to the item`}</span>
      </Link>
    </li>
  );
}

interface SignedProps {
  jobId: string;
  signed: NonNullable<HandingOver["signed"]>;
  /** Which files of the job are others since. */
  goneOn: string[];
}

function Signed({ jobId, signed, goneOn }: SignedProps) {
  return (
    <div className="py-2">
      <p className="flex items-center gap-2 font-semibold">
        <Trans>
          <Mark level={goneOn.length > 0 ? "note" : "good"} /> Signed off by {signed.name}, {moment(signed.at)}
        </Trans>
      </p>
      {signed.by === signed.name ? null : (
        <p className="pl-7 text-small text-muted">
          <Trans>signed in as {signed.by}</Trans>
        </p>
      )}
      {signed.over.length > 0 ? (
        <details className="pl-7 text-small">
          <summary className="min-h-9 cursor-pointer py-1">
            <Trans>
              Accepted by the signer: {signed.over.length === 1 ? t`one open item` : t`${signed.over.length} open items`}
            </Trans>
          </summary>
          <ul className="list-disc pl-5">
            {signed.over.map((o) => (
              <li key={o}>{o}</li>
            ))}
          </ul>
        </details>
      ) : null}
      <p className="pl-7 font-mono text-tiny break-all text-muted">
        <Trans>seal {signed.head}</Trans>
      </p>
      {goneOn.length > 0 ? (
        <p className="pl-7 text-small">
          <Trans>
            The job has changed since: {goneOn.map((n) => sealedWords()[n] ?? n).join(", ")}. What was signed stays as it was.
          </Trans>
        </p>
      ) : null}
      <p className="pl-7">
        <a
          href={`/api/jobs/${jobId}/signed/${signed.id}.zip`}
          download
          className="font-semibold underline decoration-ember decoration-2 underline-offset-3"
        >{t`The whole job as it was signed`}</a>
      </p>
    </div>
  );
}

const sealedWords = (): Record<string, string> => ({
  "job.json": t`what the job says`,
  "runs.json": "commissioning",
  "log.json": t`the log`,
  "log.csv": t`its table`,
});

/** What somebody sees who may not sign: the same things as the lead. */
function ForALead({ open, jobId }: { open: Open[]; jobId: string }) {
  if (open.length === 0) return <p className="py-2">{t`There are no open items. A lead of the team signs off.`}</p>;
  return (
    <>
      <p className="py-2">
        <Trans>
          Nothing blocks the sign-off. A lead of the team accepts{" "}
          {open.length === 1 ? t`this open item` : t`these ${open.length} open items`} and signs.
        </Trans>
      </p>
      <ul data-testid="open-for-a-lead" className="border-t border-rule">
        {open.map((o) => (
          <OpenThing key={o.key} open={o} jobId={jobId} />
        ))}
      </ul>
    </>
  );
}

interface SignFormProps {
  jobId: string;
  standing: HandingOver;
  /** Whether somebody has signed an earlier state. */
  again: boolean;
}

function SignForm({ jobId, standing, again }: SignFormProps) {
  const { person } = useSurroundings();
  const client = useQueryClient();
  const q = useQuantities();
  const [name, setName] = useState(person.name ?? "");
  const [strokes, setStrokes] = useState<Strokes>([]);
  const [seen, setSeen] = useState<string[]>([]);
  const { words, tried } = useTried(t`No signal. The server signs off and seals a job. What you wrote stays here.`);
  const left = standing.open.filter((o) => !seen.includes(o.key));
  if (!standing.may) return <ForALead open={standing.open} jobId={jobId} />;
  const sign = async () => {
    const made = await tried(
      answer(
        api.POST("/api/jobs/{job_id}/handing-over", {
          params: { path: { job_id: jobId } },
          body: { id: uuidv7(), name, strokes, over: seen, revision_id: standing.revision_id },
        }),
      ),
    );
    await lookAgain(client, ["handing-over", jobId]);
    if (made) setSeen([]);
  };
  return (
    <div className="grid gap-3 py-2">
      {standing.open.length > 0 ? (
        <fieldset>
          <legend className="pb-1 font-semibold">{t`Nothing blocks the sign-off. The signer accepts these`}</legend>
          {standing.open.map((o) => (
            <label key={o.key} className="flex min-h-11 items-center gap-3 border-b border-hair">
              <Checkbox
                checked={seen.includes(o.key)}
                onChange={(on) => setSeen(on ? [...seen, o.key] : seen.filter((k) => k !== o.key))}
                className="grid size-6 shrink-0 place-items-center rounded-sm border-[1.5px] border-edge bg-card data-checked:border-frame data-checked:bg-frame"
              >
                <svg viewBox="0 0 12 12" aria-hidden="true" className="hidden size-4 in-data-checked:block">
                  <path d="M2 6.5L5 9.5L10 3" fill="none" className="stroke-card" strokeWidth="2" />
                </svg>
              </Checkbox>
              <span className="flex-1">{q.say(o.say, o.values)}</span>
              <Link
                to={`/jobs/${jobId}/${o.stage}#${o.at}`}
                className="text-small text-ember-ink underline"
              >{t`Go to the item`}</Link>
            </label>
          ))}
          {left.length > 1 ? (
            <Button look="quiet" onClick={() => setSeen(standing.open.map((o) => o.key))}>
              <Trans>I have read all {standing.open.length}</Trans>
            </Button>
          ) : null}
        </fieldset>
      ) : null}
      <label className="grid gap-1">
        <span className="font-medium">{t`Name of the signer`}</span>
        <input
          data-testid="signer"
          value={name}
          maxLength={120}
          onChange={(e) => setName(e.target.value)}
          className="min-h-11 w-full max-w-md rounded-sm border-[1.5px] border-edge bg-card px-2"
        />
      </label>
      <div className="max-w-md">
        <p className="pb-1 text-small text-muted">{t`You can also sign by hand. The typed name counts just as much.`}</p>
        <SignaturePad strokes={strokes} change={setStrokes} />
      </div>
      {words ? (
        <p role="alert" className="text-stop">
          {words}
        </p>
      ) : null}
      <div>
        <Button
          data-testid="sign-job"
          look="act"
          large
          disabled={left.length > 0 || name.trim() === ""}
          onClick={() => void sign()}
        >
          {again ? t`Sign off this state too` : t`Sign off and seal`}
        </Button>
        {left.length > 0 ? (
          <p className="pt-1 text-small text-muted">
            <Trans>{left.length === 1 ? t`One item is` : t`${left.length} items are`} not read yet.</Trans>
          </p>
        ) : null}
      </div>
    </div>
  );
}
