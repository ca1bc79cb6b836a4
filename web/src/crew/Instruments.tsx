// The shelf of the team's instruments: which is in order, what was tried of each, what each shows; a lead puts them there.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import { Link } from "react-router";
import { v7 as uuidv7 } from "uuid";
import { type Instrument, Problem, answer, api } from "../api/client";
import { shownOf, useLive } from "../instruments/live";
import { isConnected, nameOf, useShelf } from "../instruments/shelf";
import { Button, Message, Skeleton } from "../ui/controls";
import { Mark } from "../ui/Mark";
import { moment, useQuantities, useSurroundings } from "../app/context";
import { InstrumentForm } from "./InstrumentForm";

type Put = (change: Promise<Instrument[]>) => Promise<boolean>;

export function Instruments() {
  const { person } = useSurroundings();
  const shelf = useShelf();
  const [problem, setProblem] = useState<Problem | null>(null);
  const [editing, edit] = useState<Instrument["sheet"] | "new" | null>(null);
  const put: Put = async (change) => {
    setProblem(null);
    try {
      await shelf.put(await change);
      return true;
    } catch (found) {
      if (!(found instanceof Problem)) throw found;
      setProblem(found);
      return false;
    }
  };
  const lead = person.role === "lead";
  const overdue = shelf.instruments.filter((i) => i.overdue.length > 0).length;
  return (
    <main className="mx-auto w-full max-w-6xl flex-1 px-5 py-5">
      <Link data-testid="to-jobs" to="/" className="text-muted underline">{t`Jobs`}</Link>
      <div className="flex flex-wrap items-center gap-3 pb-1">
        <h1 className="mr-auto text-big font-bold">
          <Trans>Instruments of {person.team}</Trans>
        </h1>
        {lead ? <Button look="act" onClick={() => edit("new")}>{t`Add instrument`}</Button> : null}
      </div>
      <p className="pb-3 text-ink-2">{t`Each reading records which instrument it came from. You can also type every reading yourself.`}</p>
      {(problem ?? shelf.problem) ? (
        <div className="pb-3">
          <Message failed title={(problem ?? shelf.problem)?.message ?? ""}>
            {problem?.detail}
            <ul>
              {problem?.faults.map((f) => (
                <li key={f.path}>
                  <b>{f.path}</b> {f.message}
                </li>
              ))}
            </ul>
          </Message>
        </div>
      ) : null}
      {editing ? (
        <InstrumentForm
          sheet={editing === "new" ? null : editing}
          done={() => edit(null)}
          keep={(sheet) =>
            put(
              answer(
                api.PUT("/api/instruments/{key}", {
                  params: { path: { key: sheet.id } },
                  body: { sheet: { format: "ofen-instrument/1", ...sheet } },
                }),
              ),
            )
          }
          faults={problem?.faults ?? []}
        />
      ) : null}
      {shelf.isWaiting ? <Skeleton /> : null}
      {!shelf.isWaiting && shelf.instruments.length === 0 ? (
        <Message
          title={t`No instrument yet`}
        >{t`A lead of the team adds manometers, multimeters, scales and gas detectors here. Zeroing, bump tests and calibrations are then recorded for each one.`}</Message>
      ) : null}
      {overdue > 0 ? (
        <p className="flex items-center gap-2 pb-2">
          <Trans>
            <Mark level="caution" silent /> {overdue === 1 ? t`1 instrument is overdue` : t`${overdue} instruments are overdue`}.
            Readings taken with {overdue === 1 ? t`it` : t`them`} are marked.
          </Trans>
        </p>
      ) : null}
      <ul className="border-t-[1.5px] border-frame">
        {shelf.instruments.map((i) => (
          <Row key={i.key} instrument={i} put={put} edit={lead ? () => edit(i.sheet) : null} />
        ))}
      </ul>
    </main>
  );
}

interface RowProps {
  instrument: Instrument;
  put: Put;
  /** Change its sheet; null where this person may not. */
  edit: (() => void) | null;
}

function Row({ instrument, put, edit }: RowProps) {
  const { vocabulary, person } = useSurroundings();
  const kind = vocabulary.instrument_kinds.find((k) => k.key === instrument.sheet.kind);
  const tried = (check: string, passed: boolean) =>
    put(
      answer(
        api.POST("/api/instruments/{key}/trials", {
          params: { path: { key: instrument.key } },
          body: { trial: { id: uuidv7(), at: new Date().toISOString(), check, passed } },
        }),
      ),
    );
  const checks = [
    ...(kind?.checks ?? []),
    {
      check: "calibration",
      says: "calibrated",
      how: t`Only a qualified laboratory calibrates. Its certificate stays with the instrument.`,
    },
  ];
  return (
    <li className="grid [contain-intrinsic-size:auto_6rem] [content-visibility:auto] gap-x-5 gap-y-1 border-b border-rule py-2.5 lg:grid-cols-[1.1fr_.8fr_1.5fr]">
      <div>
        <p className="flex items-center gap-2 font-semibold">
          <Mark level={instrument.overdue.length > 0 ? "caution" : "good"} size={15} /> {nameOf(instrument)}
        </p>
        <p className="text-small text-muted">
          {kind?.name}
          {instrument.sheet.serial ? ` · ${instrument.sheet.serial}` : ""}
          {instrument.used.due_on ? (
            <>
              {" · "}
              <span className="whitespace-nowrap">
                <Trans>calibrated to {instrument.used.due_on}</Trans>
              </span>
            </>
          ) : null}
          {instrument.sheet.emissivity ? t` · emissivity ${instrument.sheet.emissivity}` : ""}
        </p>
        {instrument.overdue.map((words) => (
          <p key={words} className="text-small text-ember-ink">
            {words.charAt(0).toUpperCase() + words.slice(1)}.
          </p>
        ))}
      </div>
      <Values instrument={instrument} />
      <div className="flex flex-wrap items-start gap-2">
        {person.role === "guest"
          ? null
          : checks.map((c) => (
              <span key={c.check} className="inline-flex" title={c.how}>
                <Button data-testid={`did-${c.check}`} onClick={() => void tried(c.check, true)}>
                  {triedWords()[c.check] ?? c.says}
                  <span className="sr-only">: {nameOf(instrument)}</span>
                </Button>
              </span>
            ))}
        {edit ? (
          <>
            <Button look="quiet" onClick={edit}>
              <Trans>
                Change<span className="sr-only"> {nameOf(instrument)}</span>
              </Trans>
            </Button>
            <Button
              look="quiet"
              onClick={() => void put(answer(api.DELETE("/api/instruments/{key}", { params: { path: { key: instrument.key } } })))}
            >
              <Trans>
                Remove<span className="sr-only"> {nameOf(instrument)}</span>
              </Trans>
            </Button>
          </>
        ) : null}
        {instrument.trials[0] ? (
          <p className="w-full text-small text-muted">
            <Trans>
              Last: {instrument.trials[0].check}, {moment(instrument.trials[0].at)}
              {instrument.trials[0].by ? `, ${instrument.trials[0].by}` : ""}
            </Trans>
          </p>
        ) : null}
      </div>
    </li>
  );
}

const triedWords = (): Record<string, string> => ({
  zero: t`Record zeroing`,
  bump: t`Record bump test`,
  emissivity: t`Record emissivity`,
  calibration: t`Record calibration`,
});

/** What a connected instrument shows now; drawn anew each second, and nothing else of the page with it. */
function Values({ instrument }: { instrument: Instrument }) {
  const q = useQuantities();
  const { live, silent } = useLive(isConnected(instrument));
  if (!isConnected(instrument)) return <p className="text-small text-muted">{t`Read and typed`}</p>;
  const shown = instrument.sheet.channels.flatMap((c) => {
    const s = shownOf(live, instrument.key, c.id);
    return s ? [{ ...c, ...s }] : [];
  });
  if (silent || shown.length === 0)
    return (
      <p className="text-small text-muted">
        <Trans>Not connected now · {instrument.sheet.address}</Trans>
      </p>
    );
  return (
    <div className="text-small">
      <p className="flex flex-wrap gap-x-4 tabular-nums">
        {shown.map((c) =>
          c.value === null ? null : (
            <span key={c.id}>
              <span className="text-muted">{c.id}</span> <b>{q.show(c.value, c.quantity, 4)}</b>
            </span>
          ),
        )}
      </p>
      {[...new Set(shown.map((c) => c.say).filter(Boolean))].map((say) => (
        <p key={say} role="alert" className="text-stop">
          {say}
        </p>
      ))}
      <p className="text-muted">{instrument.sheet.address}</p>
    </div>
  );
}
