// The one honest line on what this device keeps that the server does not have, and the ways out.
import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/react";
import { useLiveQuery } from "dexie-react-hooks";
import { Link } from "react-router";
import { useEffect, useState, useSyncExternalStore } from "react";
import { moment, useSurroundings } from "../app/context";
import { takeOver, version } from "../app/version";
import { SignInForm } from "../app/SignIn";
import { textAt } from "../job/document";
import { specAt } from "../job/schema";
import { Button } from "../ui/controls";
import { Mark } from "../ui/Mark";
import type { Waiting } from "./db";
import { saveJob } from "./save";
import { type Room, isTight, lost, noteWaiting, room } from "./storage";
import { CLOCK_OFF_S } from "./time";

const ROOM_EVERY_MS = 60_000;

/** "2 changes, 5 readings and 1 sign-off". */
export function saidOf(rows: Pick<Waiting, "record">[], pictures = 0): string {
  const count = (...kinds: string[]) => rows.filter((w) => kinds.includes(w.record.kind)).length;
  const [jobs, files, changes] = [count("job"), count("file"), count("revision")];
  const [steps, entries, signOffs] = [count("run", "event"), count("entry"), count("sign_off")];
  const words = [
    jobs && plural(jobs, { one: "# new job", other: "# new jobs" }),
    files && plural(files, { one: "# job file", other: "# job files" }),
    changes && plural(changes, { one: "# change", other: "# changes" }),
    steps && plural(steps, { one: "# commissioning record", other: "# commissioning records" }),
    entries && plural(entries, { one: "# log entry", other: "# log entries" }),
    signOffs && plural(signOffs, { one: "# sign-off", other: "# sign-offs" }),
    pictures && plural(pictures, { one: "# picture", other: "# pictures" }),
  ].filter((said) => said !== 0);
  return words.length > 1 ? t`${words.slice(0, -1).join(", ")} and ${words.at(-1) ?? ""}` : words.join("");
}

export function WaitingLine() {
  const { device, sender, person, signIn, clockOffS } = useSurroundings();
  const sending = useSyncExternalStore(sender.subscribe, sender.get);
  const newVersion = useSyncExternalStore(version.subscribe, version.get);
  const rows = useLiveQuery(() => device.db.outbox.orderBy("seq").toArray(), [device]);
  const pictures = useLiveQuery(() => device.db.photos.where("sent").equals(0).count(), [device]) ?? 0;
  const [space, setSpace] = useState<Room | null>(null);
  const [gone, setGone] = useState(0);
  const count = rows?.length ?? 0;
  useEffect(() => {
    if (!rows) return;
    const cleared = count === 0 ? lost(device.person, count) : 0;
    if (cleared > 0 && !device.emptied) setGone(cleared);
    else noteWaiting(device.person, count);
    // Once this page has seen something wait, an empty outbox means that it was sent.
    if (count > 0) device.emptied = true;
  }, [rows, count, device]);
  useEffect(() => {
    const look = () => void room().then(setSpace);
    look();
    const timer = setInterval(look, ROOM_EVERY_MS);
    return () => clearInterval(timer);
  }, [count]);
  const stuck = rows?.filter((w) => w.stuck !== null) ?? [];
  const idle = !sending.silent && !sending.signedOut && sending.trouble === "";
  // What is on its way is no news; the line speaks of what stays.
  const stays = count > 0 && (!idle || stuck.length > 0);
  const tight = space !== null && isTight(space);
  const clockOff = Math.abs(clockOffS) >= CLOCK_OFF_S;
  if (!rows || !(stays || !idle || tight || clockOff || sending.oldRules || gone > 0 || newVersion !== "current")) return null;
  const why = sending.signedOut
    ? t`waiting for ${person.name} to sign in`
    : sending.silent
      ? t`waiting for signal`
      : stuck.length > 0
        ? t`waiting for you to decide`
        : "waiting";
  return (
    <section
      data-testid="waiting"
      aria-label={t`Not sent yet`}
      className="no-print border-b-[1.5px] border-frame bg-ember-wash px-5 py-2 text-small"
    >
      {gone > 0 ? (
        <Line>
          <Trans>
            <b>
              This browser has deleted what was saved here.{" "}
              {plural(gone, { one: "# record had not been sent.", other: "# records had not been sent." })}
            </b>{" "}
            Look for a file you saved and import it.
            <Button
              data-testid="read-it"
              look="quiet"
              onClick={() => {
                noteWaiting(device.person, 0);
                setGone(0);
              }}
            >
              Dismiss this message
            </Button>
          </Trans>
        </Line>
      ) : null}
      {newVersion === "current" ? null : (
        <Line>
          <Trans>
            {newVersion === "waiting" ? t`A new version of Ofen is ready.` : t`Another tab has loaded a new version of Ofen.`}{" "}
            Nothing is lost.
            <Button data-testid="load-version" look="quiet" onClick={takeOver}>
              Load the new version
            </Button>
          </Trans>
        </Line>
      )}
      {sending.oldRules ? (
        <Line>{t`The rules on this device are older than the server’s, so results may differ. Load the page again when you can.`}</Line>
      ) : null}
      {clockOff ? (
        <Line>
          <Trans>
            This device’s clock is {clockWords(Math.abs(clockOffS))} {clockOffS > 0 ? t`ahead` : t`behind`}. Your records carry the
            server’s time beside this clock’s. Set the clock right.
          </Trans>
        </Line>
      ) : null}
      {tight ? (
        <Line>
          <Trans>
            <b>This device is running out of room</b>
            {space?.share == null ? "" : t` (${Math.round(space.share * 100)} % used)`}. Save what waits to a file before it is
            full.
          </Trans>
        </Line>
      ) : null}
      {stays ? (
        <Disclosure as="div">
          <Line>
            <Trans>
              <b>{saidOf(rows)}</b> {count === 1 ? t`is` : t`are`} on this device only, {why}. {sending.trouble}{" "}
              <DisclosureButton
                data-testid="what-waits"
                className="font-semibold underline decoration-ember decoration-2 underline-offset-3"
              >
                Show unsent records
              </DisclosureButton>
            </Trans>
          </Line>
          <DisclosurePanel>
            <Details rows={rows} lasting={space?.lasting ?? null} />
          </DisclosurePanel>
        </Disclosure>
      ) : sending.silent && pictures === 0 ? (
        <Line>{t`No signal. Keep working. What you record is saved on this device.`}</Line>
      ) : null}
      {pictures > 0 && !idle ? (
        <Line>
          <Trans>
            <b>{plural(pictures, { one: "# picture is", other: "# pictures are" })}</b> on this device only, {why}.
          </Trans>
        </Line>
      ) : null}
      {sending.signedOut ? (
        <Disclosure as="div">
          <Line>
            <Trans>
              You are signed out. You can go on working here.
              <DisclosureButton
                data-testid="sign-in-to-send"
                className="font-semibold underline decoration-ember decoration-2 underline-offset-3"
              >
                Sign in to send
              </DisclosureButton>
            </Trans>
          </Line>
          <DisclosurePanel className="max-w-sm py-2">
            <SignInForm onSignedIn={signIn} />
          </DisclosurePanel>
        </Disclosure>
      ) : null}
    </section>
  );
}

const clockWords = (s: number) => (s < 7200 ? t`${Math.round(s / 60)} min` : `${Math.round(s / 3600)} h`);

function Line({ children }: { children: React.ReactNode }) {
  return (
    <p className="flex gap-2 py-0.5">
      <Mark level="caution" size={16} silent />
      <span>{children}</span>
    </p>
  );
}

const kindWords = (): Record<Waiting["record"]["kind"], string> => ({
  job: t`New job`,
  file: t`Job imported`,
  revision: t`Change`,
  run: t`Commissioning begun`,
  event: t`Commissioning record`,
  entry: t`Log entry`,
  sign_off: t`Sign-off`,
});
const SHOWN = 12;

function Details({ rows, lasting }: { rows: Waiting[]; lasting: boolean | null }) {
  const { device, sender, vocabulary } = useSurroundings();
  const jobs = useLiveQuery(() => device.db.jobs.bulkGet([...new Set(rows.map((w) => w.job))]), [rows, device]) ?? [];
  const behind = (file: Waiting) => rows.filter((w) => w.job === file.job).length - 1;
  const nameOf = (id: string) => textAt(jobs.find((j) => j?.id === id)?.document ?? {}, "name") || t`a job`;
  return (
    <div className="py-2">
      <ul className="mb-2">
        {rows.slice(0, SHOWN).map((w) => (
          <li key={w.seq} className="border-t border-rule py-1">
            {kindWords()[w.record.kind]} · {nameOf(w.job)}
            {"body" in w.record ? ` · ${moment(w.record.body.at, "short")}` : ""}
            {"body" in w.record && typeof w.record.body["as_typed"] === "string" ? ` · ${w.record.body["as_typed"]}` : ""}
            {w.stuck === "conflict" ? t` · two versions: choose in the job` : ""}
            {w.stuck === "refused" && w.problem ? (
              <span className="text-stop">
                {" "}
                · {w.problem.title}:{" "}
                {w.problem.faults
                  ?.map((f) => [specAt(vocabulary.job_schema, f.path)?.title, f.message].filter(Boolean).join(" "))
                  .join("; ") ?? w.problem.detail}{" "}
                <Button
                  look="quiet"
                  onClick={() => {
                    void device.sendAgain(w.id).then(() => sender.wake());
                  }}
                >{t`Send it again`}</Button>
                {w.record.kind === "job" || w.record.kind === "revision" ? (
                  <Link to={`/jobs/${w.job}/need`} className="underline">{t`Open the job and correct it`}</Link>
                ) : null}
                {w.record.kind === "file" ? (
                  <Button look="quiet" onClick={() => void device.letGo(w.job)}>
                    {behind(w) > 0
                      ? plural(behind(w), { one: "Remove the job and # record of it", other: "Remove the job and # records of it" })
                      : t`Remove the job`}
                  </Button>
                ) : null}
                {w.record.kind === "event" || w.record.kind === "entry" ? (
                  <Button look="quiet" onClick={() => void device.discardRefused(w.id)}>{t`Discard record`}</Button>
                ) : null}
              </span>
            ) : null}
          </li>
        ))}
        {rows.length > SHOWN ? (
          <li className="border-t border-rule py-1 text-muted">
            <Trans>and {rows.length - SHOWN} more</Trans>
          </li>
        ) : null}
      </ul>
      <div className="flex flex-wrap gap-3">
        {jobs.map((job) =>
          job ? (
            <Button key={job.id} onClick={() => void saveJob(device, job.id)}>
              <Trans>Save “{nameOf(job.id)}” to a file</Trans>
            </Button>
          ) : null,
        )}
      </div>
      {lasting === false ? (
        <p className="pt-1 text-muted">{t`This browser may delete what is saved here when space runs short. A file stays.`}</p>
      ) : null}
    </div>
  );
}
