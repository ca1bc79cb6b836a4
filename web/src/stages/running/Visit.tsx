// A visit at the unit: one reading after the other, what was read last beside it, one next action; saved as one.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect, useRef, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { VisitField } from "../../api/client";
import { type Quantities, moment, useQuantities, useSurroundings } from "../../app/context";
import { useJob, useJobStore, useRecords } from "../../job/context";
import { textAt } from "../../job/document";
import { LiveValue, PickInstrument, useReadBy, useTaking } from "../../instruments/ReadBy";
import { usedAt } from "../../instruments/shelf";
import { isFull } from "../../outbox/device";
import { pictureOf } from "../../outbox/photos";
import { Button, Skeleton } from "../../ui/controls";
import { MOST_REMARK, When } from "./When";
import { useVisit } from "./useAsked";
import { type VisitForm, useVisitForm } from "./useVisitForm";
import { type Answer, lastWords, stepped } from "./visiting";

const KEYS = ["1", "2", "3", "⌫", "4", "5", "6", "±", "7", "8", "9", ".", "0"];
const names = (): Record<string, string> => ({ "⌫": t`Delete the last digit`, "±": t`Below zero` });

/** What stands there after a key. */
function pressed(text: string, key: string): string {
  if (key === "⌫") return text.slice(0, -1);
  if (key === "±") return text.startsWith("-") ? text.slice(1) : `-${text}`;
  return text + key;
}

export function Visit() {
  const { jobId = "" } = useParams();
  const { document } = useJob();
  const { role } = useJobStore();
  const { entries } = useRecords();
  const fields = useVisit();
  const last = entries.findLast((e) => e.kind !== "kit");
  const name = textAt(document, "name");
  const when = last ? t`last visit ${moment(last.at, "short")}` : t`first visit`;
  if (fields && role !== "guest") return <Reading job={jobId} fields={fields} name={name} when={when} />;
  return (
    <Frame job={jobId} name={name} when={when}>
      <main className="p-4">
        {role === "guest" ? (
          <p className="text-ink-2">{t`You are a guest in this team. You can read, but not change.`}</p>
        ) : (
          <Skeleton />
        )}
      </main>
    </Frame>
  );
}

interface FrameProps {
  job: string;
  name: string;
  /** When somebody was here last, in words. */
  when: string;
  /** What may be done at any step. */
  save?: React.ReactNode;
  children: React.ReactNode;
}

function Frame({ job, name, when, save, children }: FrameProps) {
  return (
    <div className="mx-auto flex h-dvh w-full max-w-xl flex-col text-[1.0625rem]">
      <header className="flex items-center gap-3 border-b-[1.5px] border-frame bg-rail px-4 py-1.5">
        <Link to={`/jobs/${job}/running`} className="min-h-12 content-center pr-2 underline">{t`Leave`}</Link>
        <div className="min-w-0 flex-1">
          <h1 className="truncate text-base font-bold leading-tight">{name}</h1>
          <p className="truncate text-body text-muted">{when}</p>
        </div>
        {save}
      </header>
      {children}
    </div>
  );
}

interface ReadingProps {
  job: string;
  fields: VisitField[];
  name: string;
  when: string;
}

function Reading({ job, fields, name, when }: ReadingProps) {
  const form = useVisitForm(fields);
  const navigate = useNavigate();
  const q = useQuantities();
  const [chosen, choose] = useState(fields[0]?.key ?? "");
  const [asked, ask] = useState(false);
  const [more, showMore] = useState(false);
  const box = useRef<HTMLOListElement>(null);
  useEffect(() => {
    box.current?.querySelector("[aria-current]")?.scrollIntoView({ block: "center" });
  }, [chosen]);
  const at = Math.max(
    0,
    fields.findIndex((f) => f.key === chosen),
  );
  const field = fields[at];
  const answer = form.answers[at];
  const next = fields[at + 1];
  if (!field || !answer) return <p className="p-4">{t`There is nothing to read yet. This job has no machine and no fuel.`}</p>;
  const question = form.questionOf(field);
  const goOn = () => {
    ask(false);
    if (next) choose(next.key);
  };
  const on = () => {
    if (answer.error) return;
    if (question) ask(true);
    else goOn();
  };
  const save = async () => {
    if (form.doubtful) {
      choose(form.doubtful.key);
      ask(true);
    } else if (await form.save()) await navigate(`/jobs/${job}/running#log`);
  };
  const type = (text: string) => {
    ask(false);
    form.type(field, text);
  };
  const looks = fields.filter((f) => f.looks.length > 0 && f.last !== null && form.textOf(f) === "");
  return (
    <Frame
      job={job}
      name={name}
      when={when}
      save={
        next && form.read > 0 ? (
          <Button data-testid="save-visit" large disabled={!form.ready} onClick={() => void save()}>
            <Trans>Save, {form.read} read</Trans>
          </Button>
        ) : null
      }
    >
      <main className="min-h-0 flex-1 overflow-y-auto">
        <ol data-testid="visit-readings" ref={box} aria-label={t`Readings`}>
          {fields.map((f, n) => (
            <Row
              key={f.key}
              field={f}
              answer={form.answers[n] as Answer}
              here={f.key === field.key}
              first={f.name !== fields[n - 1]?.name}
              choose={() => choose(f.key)}
              q={q}
            />
          ))}
        </ol>
      </main>
      <section
        data-testid="next-action"
        aria-label={t`Next action`}
        className="border-t-[1.5px] border-frame bg-rail px-4 pb-3 pt-2"
      >
        {form.trouble || answer.error ? (
          <p role="alert" className="pb-1 text-stop">
            {form.trouble || answer.error}
          </p>
        ) : null}
        {asked && question ? (
          <div role="alert" className="pb-2">
            <p className="pb-2 font-medium">{question}</p>
            <div className="grid grid-cols-2 gap-2">
              <Button
                data-testid="keep-value"
                large
                onClick={() => {
                  form.agree(field);
                  goOn();
                }}
              >{t`Keep this value`}</Button>
              <Button large onClick={() => type("")}>{t`Enter again`}</Button>
            </div>
          </div>
        ) : more ? (
          <More job={job} form={form} />
        ) : field.looks.length > 0 ? (
          <Looks
            field={field}
            chosen={form.textOf(field)}
            choose={(value) => {
              type(value);
              goOn();
            }}
          />
        ) : (
          <Reads key={field.key} field={field} form={form} type={type} enter={on} q={q} />
        )}
        {looks.length > 1 && field.looks.length > 0 && !more ? (
          <div className="pt-2">
            <Button data-testid="looks-as-last" large onClick={() => looks.forEach((f) => form.type(f, String(f.last)))}>
              <Trans>All {looks.length} looks same as last time</Trans>
            </Button>
          </div>
        ) : null}
        <div className="grid grid-cols-[7rem_1fr] gap-2.5 pt-2">
          <Button large onClick={() => showMore(!more)}>
            {more ? t`Readings` : t`Photo, remark`}
          </Button>
          {next && !more ? (
            <Button large look="act" disabled={answer.error !== ""} onClick={on}>
              <Trans>Next: {next.label.toLowerCase()}</Trans>
            </Button>
          ) : (
            <Button large look="act" disabled={!form.ready} onClick={() => void save()}>{t`Save the visit`}</Button>
          )}
        </div>
      </section>
    </Frame>
  );
}

interface RowProps {
  field: VisitField;
  answer: Answer;
  here: boolean;
  /** Whether it is the first of its machine or supply. */
  first: boolean;
  choose: () => void;
  q: Quantities;
}

function Row({ field, answer, here, first, choose, q }: RowProps) {
  return (
    <li className={here ? "border-l-4 border-ember bg-card" : "border-l-4 border-transparent"}>
      {first ? <p className="border-b border-hair px-3 pt-2 text-small text-muted">{field.name}</p> : null}
      <button
        type="button"
        data-reading={field.key}
        aria-current={here ? "step" : undefined}
        onClick={choose}
        className="grid min-h-14 w-full grid-cols-[1fr_auto] items-center gap-3 border-b border-rule px-3 py-1 text-left"
      >
        <span className="min-w-0">
          <span className={here ? "font-bold" : ""}>{field.label}</span>
          <span className="block text-body text-muted">{lastWords(field, q)}</span>
        </span>
        <span className={`text-lg font-semibold ${answer.value === null ? "text-muted" : answer.error ? "text-stop" : ""}`}>
          {answer.value === null ? (field.looks.length > 0 ? "—" : q.split(0, field.kind).unit || "—") : answer.shown}
          {answer.value !== null ? <span className="pl-1.5 text-good">✓</span> : null}
        </span>
      </button>
    </li>
  );
}

interface ReadsProps {
  field: VisitField;
  form: VisitForm;
  type: (text: string) => void;
  enter: () => void;
  q: Quantities;
}

/** A number from an instrument of the shelf where one is picked that gives it, else typed. */
function Reads({ field, form, type, enter, q }: ReadsProps) {
  const { vocabulary } = useSurroundings();
  const by = useReadBy(typeof field.body["subject"] === "string" ? field.body["subject"] : "", field.kind, field.key);
  const text = form.textOf(field);
  const taking = useTaking(by, async (value, ageS) => {
    if (by.source)
      form.take(field, q.field(value, field.kind), usedAt(by.source.instrument, vocabulary.instrument_kinds, value, true, ageS));
    await Promise.resolve();
  });
  const gives = by.source !== null && by.source.channel !== null && text === "";
  return (
    <>
      <PickInstrument by={by} />
      {gives ? (
        <>
          <LiveValue by={by} quantity={field.kind} />
          <Button large look="act" disabled={taking.asked || by.shown?.value == null} onClick={() => taking.ask(true)}>
            {taking.asked ? t`Taken when steady` : t`Take reading`}
          </Button>
        </>
      ) : (
        <Keypad field={field} text={text} type={type} enter={enter} q={q} />
      )}
    </>
  );
}

interface KeypadProps {
  field: VisitField;
  text: string;
  type: (text: string) => void;
  enter: () => void;
  q: Quantities;
}

/** A number typed with a thumb, or one step up and down from the last. */
function Keypad({ field, text, type, enter, q }: KeypadProps) {
  const by = (sign: number) => type(stepped(field, text, sign, q));
  return (
    <>
      <div className="grid grid-cols-[4.25rem_1fr_4.25rem] gap-2">
        <Button large onClick={() => by(-1)}>
          <span aria-hidden="true">−</span>
          <span className="sr-only">{t`Less`}</span>
        </Button>
        <input
          aria-label={t`${field.label}, reading`}
          data-field={field.key}
          value={text}
          inputMode="none"
          autoComplete="off"
          onChange={(e) => type(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && enter()}
          placeholder={q.split(0, field.kind).unit}
          className="min-w-0 rounded-sm border-2 border-frame bg-card px-3 text-right text-huge font-bold placeholder:text-lg placeholder:font-normal placeholder:text-muted"
        />
        <Button large onClick={() => by(1)}>
          <span aria-hidden="true">+</span>
          <span className="sr-only">{t`More`}</span>
        </Button>
      </div>
      <div className="mt-2 grid grid-cols-4 gap-1.5">
        {KEYS.map((k) => (
          <button
            key={k}
            type="button"
            aria-label={names()[k] ?? k}
            onClick={() => type(pressed(text, k))}
            className={`min-h-12 rounded-sm border-[1.5px] border-edge bg-card text-xl font-semibold ${k === "0" ? "col-span-2" : ""}`}
          >
            {k}
          </button>
        ))}
        <button
          type="button"
          disabled={typeof field.last !== "number"}
          onClick={() => typeof field.last === "number" && type(q.field(field.last, field.kind))}
          className="col-span-2 min-h-12 rounded-sm border-[1.5px] border-edge bg-card font-semibold disabled:opacity-50"
        >{t`Same as last`}</button>
      </div>
    </>
  );
}

function Looks({ field, chosen, choose }: { field: VisitField; chosen: string; choose: (value: string) => void }) {
  return (
    <fieldset className="grid gap-1.5">
      <legend className="sr-only">{field.label}</legend>
      {field.looks.map((o) => (
        <button
          key={o.value}
          type="button"
          aria-pressed={chosen === o.value}
          onClick={() => choose(o.value)}
          className={`min-h-12 rounded-sm border-[1.5px] px-3 text-left font-medium ${chosen === o.value ? "border-ember bg-ember-wash" : "border-edge bg-card"}`}
        >
          {o.reads}
          {field.last === o.value ? <span className="pl-2 font-normal text-muted">{t`last time`}</span> : null}
        </button>
      ))}
    </fieldset>
  );
}

/** A picture and words beside the readings, and another hour than now. */
function More({ job, form }: { job: string; form: VisitForm }) {
  const { device } = useSurroundings();
  const [trouble, setTrouble] = useState("");
  const take = async (file: File | undefined) => {
    if (!file) return;
    setTrouble("");
    try {
      form.put("photo", await device.keepPhoto(job, await pictureOf(file)));
    } catch (problem) {
      if (isFull(problem)) setTrouble(t`This device has no room left. The picture was not saved.`);
      else if (problem instanceof Error) setTrouble(problem.message);
    }
  };
  return (
    <div className="grid gap-2">
      <label className="grid gap-1">
        <span className="font-medium">
          <Trans>
            Remark <span className="font-normal text-muted">you can also dictate it with the keyboard’s microphone</span>
          </Trans>
        </span>
        <textarea
          value={form.remark}
          maxLength={MOST_REMARK}
          rows={3}
          onChange={(e) => form.put("remark", e.target.value)}
          className="w-full rounded-sm border-[1.5px] border-edge bg-card px-3 py-2"
        />
      </label>
      <When value={form.when} put={(text) => form.put("when", text)} />
      <label className="grid min-h-12 cursor-pointer place-items-center rounded-sm border-[1.5px] border-frame bg-card px-4 font-semibold focus-within:outline-2">
        {form.photo ? t`Retake picture` : t`Take picture`}
        <input
          type="file"
          accept="image/*"
          capture="environment"
          aria-label={t`Picture of this visit`}
          className="sr-only"
          onChange={(e) => void take(e.target.files?.[0])}
        />
      </label>
      {trouble ? (
        <p role="alert" className="text-stop">
          {trouble}
        </p>
      ) : null}
    </div>
  );
}
