// The log: a row a visit, by day, filtered by kind and machine; a visit is corrected in its place, and what was wrong stays visible.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Select } from "@headlessui/react";
import { useLiveQuery } from "dexie-react-hooks";
import { useMemo, useState } from "react";
import { v7 as uuidv7 } from "uuid";
import type { LogKind } from "../../api/client";
import { dated, moment, useQuantities, useSurroundings } from "../../app/context";
import { type LoggedEntry, useJobStore, useRecords } from "../../job/context";
import { fetchOlder } from "../../outbox/copy";
import type { RecordBody } from "../../outbox/db";
import { readTyped } from "../../ui/JobField";
import { Button } from "../../ui/controls";
import { PhotoView } from "../commissioning/PhotoView";
import { labelOf, quantityOf, wordsOf } from "./kinds";
import { BOX } from "./When";
import type { Names } from "./names";
import { useKeep } from "./useKeep";
import { type VisitRow, byDay, together } from "./visits";

const DAYS = 7;

export function Log({ names }: { names: Names }) {
  const { vocabulary, device } = useSurroundings();
  const { id: job } = useJobStore();
  const { entries } = useRecords();
  const from = useLiveQuery(async () => (await device.db.jobs.get(job))?.logFrom ?? null, [device, job]) ?? null;
  const [silent, setSilent] = useState(false);
  const [kind, setKind] = useState("");
  const [of, setOf] = useState("");
  const [days, setDays] = useState(DAYS);
  const found = useMemo(
    () => byDay(entries, (e) => (kind === "" || e.kind === kind) && (of === "" || (e.subject ?? "") === of)),
    [entries, kind, of],
  );
  const there = new Set(entries.map((e) => e.kind));
  const subjects = [...new Set(entries.flatMap((e) => (e.subject ? [e.subject] : [])))];
  if (entries.every((e) => e.kind === "kit")) return null;
  return (
    <section data-testid="log" id="log" aria-label={t`Log`} aria-live="off" className="mt-5 border-t-[1.5px] border-frame pt-2">
      <div className="flex flex-wrap items-center gap-2 pb-1">
        <h3 className="mr-auto font-bold">{t`Log`}</h3>
        <Select
          data-testid="log-kind"
          aria-label={t`Kind`}
          value={kind}
          onChange={(e) => setKind(e.target.value)}
          className="rounded-sm border border-edge bg-card px-1 py-0.5"
        >
          <option value="">{t`every kind`}</option>
          {vocabulary.log_kinds
            .filter((k) => there.has(k.kind as LoggedEntry["kind"]))
            .map((k) => (
              <option key={k.kind} value={k.kind}>
                {k.title}
              </option>
            ))}
        </Select>
        {subjects.length > 1 ? (
          <Select
            aria-label={t`Machine or supply`}
            value={of}
            onChange={(e) => setOf(e.target.value)}
            className="rounded-sm border border-edge bg-card px-1 py-0.5"
          >
            <option value="">{t`everything`}</option>
            {subjects.map((id) => (
              <option key={id} value={id}>
                {names.get(id) ?? id}
              </option>
            ))}
          </Select>
        ) : null}
      </div>
      {found.length === 0 ? <p className="text-muted">{t`The log has no entry of that kind.`}</p> : null}
      {found.slice(0, days).map((d) => (
        <section key={d.day} aria-label={d.day} className="pb-2">
          <h4 className="border-b border-rule text-small text-muted">
            {dated(`${d.day}T12:00`, { weekday: "long", day: "numeric", month: "long", year: "numeric" })}
          </h4>
          <ul>
            {d.visits.map((v) => (
              <Visit key={v.id} visit={v} names={names} kinds={vocabulary.log_kinds} />
            ))}
          </ul>
        </section>
      ))}
      {found.length <= days && from ? (
        <p className="flex flex-wrap items-center gap-2 py-1 text-small text-muted">
          <Trans>
            Entries before {moment(from)} are on the server.
            <Button onClick={() => void fetchOlder(device, job).catch(() => setSilent(true))}>Load older entries</Button>
            {silent ? <span role="alert">{t`There is no signal now.`}</span> : null}
          </Trans>
        </p>
      ) : null}
      {found.length > days ? (
        <Button onClick={() => setDays(days + DAYS)}>
          <Trans>Show {found.length - days} more days</Trans>
        </Button>
      ) : null}
    </section>
  );
}

interface VisitProps {
  visit: VisitRow;
  names: Names;
  kinds: LogKind[];
}

function Visit({ visit, names, kinds }: VisitProps) {
  const q = useQuantities();
  const { id: job, role } = useJobStore();
  const [correcting, correct] = useState(false);
  const kindOf = (e: LoggedEntry) => kinds.find((k) => k.kind === e.kind);
  const shown = (e: LoggedEntry) => {
    const kind = kindOf(e);
    const spec = quantityOf(kind);
    const value = "value" in e && typeof e.value === "number" && spec?.kind ? q.show(e.value, spec.kind, 4) : "";
    return [value, wordsOf(e, kind)].filter(Boolean).join(", ");
  };
  const groups = together(
    visit.entries,
    kinds.map((k) => k.kind),
  );
  // One unit for them all, at the end.
  const row = (all: LoggedEntry[]) => {
    const kind = quantityOf(kindOf(all[0] as LoggedEntry))?.kind;
    const parts = all.flatMap((e) => (kind && "value" in e && typeof e.value === "number" ? [q.split(e.value, kind, 4)] : []));
    return `${parts.map((p) => p.number).join(" · ")} ${parts[0]?.unit ?? ""}`;
  };
  // Whose it is says itself where there is one of the kind.
  const several = (kind: string) => new Set(visit.entries.filter((e) => e.kind === kind).map((e) => e.subject ?? "")).size > 1;
  const here = visit.entries.some((e) => !e.sent);
  const refused = visit.entries.find((e) => e.refusal);
  return (
    <li className="grid grid-cols-[3.5rem_1fr_auto] gap-2 border-b border-hair py-1 text-small">
      <span className="text-muted">{dated(visit.at, { hour: "2-digit", minute: "2-digit" })}</span>
      <span className="min-w-0">
        <span className="flex flex-wrap gap-x-3 gap-y-0.5">
          {groups.map(([e, ...others]) =>
            e ? (
              <span key={e.id}>
                <span className="text-muted">
                  {others.length > 0 ? (kindOf(e)?.title ?? "") : labelOf(e, kindOf(e))}
                  {several(e.kind) && e.subject ? ` · ${names.get(e.subject) ?? e.subject}` : ""}
                </span>{" "}
                <b>{others.length > 0 ? row([e, ...others]) : shown(e)}</b>
                {[e, ...others].some((x) => x.corrects) ? (
                  <span className="text-muted">
                    <Trans> corrected by {[e, ...others].find((x) => x.corrects)?.by || t`somebody`}</Trans>
                  </span>
                ) : null}
                {e.remark ? <span> {e.remark}</span> : null}
                {e.kind === "note" && "photo" in e && e.photo ? (
                  <PhotoView job={job} photo={e.photo} shows={t`Picture of this visit`} />
                ) : null}
              </span>
            ) : null,
          )}
        </span>
        {visit.corrected.map((e) => (
          <span key={e.id} className="block text-muted line-through">
            {labelOf(e, kindOf(e))} {shown(e)}
          </span>
        ))}
        <span className="text-muted">
          {visit.by}
          {here ? <span data-testid="here-only" className="ml-1.5 text-ember-ink">{t`on this device only`}</span> : null}
          {refused?.refusal ? (
            <span className="ml-1.5 text-stop">
              <Trans>{refused.refusal.title}: see what waits</Trans>
            </span>
          ) : null}
        </span>
      </span>
      {role === "guest" || !visit.entries.some((e) => "value" in e && typeof e.value === "number") ? (
        <span />
      ) : (
        <span>
          <Button data-testid="correct" look="quiet" onClick={() => correct(!correcting)}>
            <Trans>
              Correct<span className="sr-only"> the visit of {moment(visit.at)}</span>
            </Trans>
          </Button>
        </span>
      )}
      {correcting ? <Correction visit={visit} kinds={kinds} done={() => correct(false)} /> : null}
    </li>
  );
}

interface CorrectionProps {
  visit: VisitRow;
  kinds: LogKind[];
  done: () => void;
}

/** The whole visit once more, each value as it was typed: what is changed takes the place of what was wrong. */
function Correction({ visit, kinds, done }: CorrectionProps) {
  const { keep, noRoom } = useKeep();
  const { person } = useSurroundings();
  const q = useQuantities();
  const fields = visit.entries.flatMap((entry) => {
    const spec = quantityOf(kinds.find((k) => k.kind === entry.kind));
    return spec?.kind && "value" in entry && typeof entry.value === "number"
      ? [{ entry, spec, was: entry.as_typed || q.field(entry.value, spec.kind) }]
      : [];
  });
  const [texts, setTexts] = useState<Record<string, string>>({});
  const read = fields.map((f) => ({
    ...f,
    text: texts[f.entry.id] ?? f.was,
    read: readTyped(texts[f.entry.id] ?? f.was, f.spec, q),
  }));
  const changed = read.filter((f) => f.text !== f.was);
  const wrong = changed.some((f) => !f.read.ok || typeof f.read.value !== "number");
  const correct = async () => {
    const records = changed.flatMap(({ entry, text, read: now }): RecordBody[] => {
      if (!now.ok || typeof now.value !== "number") return [];
      const { id: corrects, sent: _sent, refusal: _refusal, ...old } = entry;
      return [{ ...old, id: uuidv7(), value: now.value, as_typed: text, corrects, by: person.name }];
    });
    if (await keep(records)) done();
  };
  return (
    <form
      data-testid="correction"
      aria-label={t`Correction`}
      className="col-span-3 grid gap-1 bg-card p-2"
      onSubmit={(e) => {
        e.preventDefault();
        if (changed.length > 0 && !wrong) void correct();
      }}
    >
      {read.map((f) => (
        <label key={f.entry.id} className="grid grid-cols-[1fr_9rem] items-center gap-2">
          <span>
            {labelOf(
              f.entry,
              kinds.find((k) => k.kind === f.entry.kind),
            )}
          </span>
          <input
            data-field={[
              f.entry.subject,
              f.entry.kind,
              "where" in f.entry ? f.entry.where : "",
              "vessel" in f.entry ? f.entry.vessel : "",
            ]
              .filter(Boolean)
              .join(".")}
            value={f.text}
            onChange={(e) => setTexts({ ...texts, [f.entry.id]: e.target.value })}
            className={`${BOX} text-right`}
          />
          {f.text !== f.was && !f.read.ok ? (
            <span role="alert" className="col-span-2 text-stop">
              {f.read.error}
            </span>
          ) : null}
        </label>
      ))}
      {noRoom}
      <div className="flex gap-2 pt-1">
        <Button
          data-testid="record-correction"
          type="submit"
          look="act"
          disabled={changed.length === 0 || wrong}
        >{t`Record correction`}</Button>
        <Button onClick={done}>{t`Cancel`}</Button>
      </div>
    </form>
  );
}
