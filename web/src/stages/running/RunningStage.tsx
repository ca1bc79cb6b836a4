import { Select } from "@headlessui/react";
import { useMemo, useState } from "react";
import type { LogKind, Stage } from "../../api/client";
import { useParams } from "react-router";
import { v7 as uuidv7 } from "uuid";
import { moment as momentWords, useQuantities, useSurroundings } from "../../app/context";
import { type LoggedEntry, useDraft, useJob, useJobStore, useRecords } from "../../job/context";
import { listAt, textAt } from "../../job/document";
import { readTyped } from "../../ui/JobField";
import type { RecordBody } from "../../outbox/db";
import { isFull } from "../../outbox/device";
import { StagePart } from "../../ui/answers";
import { Button, Message } from "../../ui/controls";
import { fieldsOf, labelOf, quantityOf, wordsOf } from "./kinds";
import { ChangeOvers } from "./ChangeOver";
import { StopOrder } from "./StopOrder";
import { WeightChart } from "./WeightChart";

type Keep = (records: RecordBody[]) => Promise<boolean>;

/** The log: readings in, what they come to out. */
export function RunningStage() {
  const { jobId = "" } = useParams();
  const { device, sender } = useSurroundings();
  const { entries, running } = useRecords();
  const [full, setFull] = useState(false);
  const keep: Keep = async (records) => {
    try {
      await device.recordEntries(jobId, records);
    } catch (problem) {
      if (!isFull(problem)) throw problem;
      setFull(true);
      return false;
    }
    setFull(false);
    sender.wake();
    return true;
  };
  return (
    <StagePart
      given={
        <>
          {full ? (
            <Message failed title="This device has no room left: these readings were not kept">
              Save the job to a file, make room, and record them again.
            </Message>
          ) : null}
          <ChangeOvers />
          <Readings keep={keep} />
          <Other keep={keep} />
          <Entries entries={entries} keep={keep} />
        </>
      }
      stage={running}
      choices={<StopOrder />}
    >
      {running ? <Weights stage={running} /> : null}
    </StagePart>
  );
}

interface Weighed {
  supply: string;
  at_s: number;
  left_kg: number;
}

/** One chart for each supply that was weighed. */
function Weights({ stage }: { stage: Stage }) {
  const { plan } = useJob();
  const weights = useMemo(() => (stage.tables["weight"] ?? []) as unknown as Weighed[], [stage]);
  const reserves = (stage.tables["reserve"] ?? []) as { supply: string; left_kg: number; full_kg: number }[];
  const changes = (stage.tables["change_over"] ?? []) as { supply: string; at_s: number; which: string }[];
  return reserves.map((reserve) => {
    const own = weights.filter((w) => w.supply === reserve.supply);
    const supply = plan?.supplies.find((s) => s.id === reserve.supply);
    const planned = supply?.stage.figures.find((f) => f.key === "supply.flow_kg_per_s")?.value ?? null;
    if (own.length === 0) return null;
    return (
      <div key={reserve.supply}>
        {reserves.length > 1 ? <h3 className="font-bold">{supply?.name || reserve.supply}</h3> : null}
        <WeightChart weights={own} reserve_kg={reserve.left_kg} full_kg={reserve.full_kg} planned_kg_per_s={planned} change_over_s={changes.find((c) => c.supply === reserve.supply && c.which === "likely")?.at_s ?? null} />
      </div>
    );
  });
}

interface Line {
  key: string;
  label: string;
  /** The entry it becomes, less its value. */
  body: { kind: string; subject: string; where?: string; vessel?: number };
}

/** The supplies and machines of the job by id, as they are called. */
function useNames(): Map<string, string> {
  const { plan } = useJob();
  return useMemo(() => {
    const machines = plan?.machines ?? [];
    const twice = (name: string) => machines.filter((m) => m.name === name).length > 1;
    return new Map([...(plan?.supplies ?? []).map((s): [string, string] => [s.id, s.name || s.id]), ...machines.map((m): [string, string] => [m.id, twice(m.name) ? `${m.name} (${m.id})` : m.name])]);
  }, [plan]);
}

/** What is usually read at a visit: each vessel on a scale, the air of each heater, the air round them. */
function useLines(): { title: string; lines: Line[] }[] {
  const { document, plan } = useJob();
  const names = useNames();
  const weighed = listAt(document, "supplies").filter((s) => (textAt(s, "fuel") || "propane") === "propane");
  const groups = weighed.map((s) => {
    const storage = s["storage"];
    const count = storage !== null && typeof storage === "object" && !Array.isArray(storage) && typeof storage["count"] === "number" ? storage["count"] : 1;
    const subject = textAt(s, "id");
    const lines = Array.from({ length: count }, (_, n): Line => ({ key: `${subject}.vessel-${n + 1}`, label: `Vessel ${n + 1} on the scale`, body: { kind: "weight", subject, vessel: n + 1 } }));
    return { title: names.get(subject) ?? subject, lines };
  });
  const heaters = (plan?.machines ?? []).filter((m) => m.kind === "heater").map((m) => ({ title: names.get(m.id) ?? m.id, lines: [air(m.id, "out", "Air out of the heater"), air(m.id, "in", "Air into the heater")] }));
  return [...groups, ...heaters, { title: "Round them", lines: [air("", "space", "Air in the space"), air("", "outside", "Outside air")] }];
}

const air = (subject: string, where: string, label: string): Line => ({ key: `${subject}.${where}`, label, body: { kind: "air", subject, where } });

function Readings({ keep }: { keep: Keep }) {
  const { drafts } = useJob();
  const store = useJobStore();
  const { vocabulary, person } = useSurroundings();
  const q = useQuantities();
  const [remark, setRemark] = useDraft("log.remark");
  const groups = useLines();
  const textOf = (line: Line) => drafts[`log.${line.key}`] ?? "";
  const type = (line: Line, text: string) => store.draft(`log.${line.key}`, text === "" ? null : text);
  const specOf = (line: Line) => quantityOf(vocabulary.log_kinds.find((k) => k.kind === line.body.kind));
  const readOf = (line: Line): { value: number } | { error: string } | null => {
    const spec = specOf(line);
    if (textOf(line).trim() === "" || !spec) return null;
    const read = readTyped(textOf(line), spec, q);
    if (!read.ok) return { error: read.error };
    return typeof read.value === "number" ? { value: read.value } : null;
  };
  const filled = groups.flatMap((g) => g.lines).flatMap((line) => {
    const read = readOf(line);
    return read ? [{ line, read }] : [];
  });
  const wrong = filled.some((r) => "error" in r.read);
  const [when, setWhen] = useDraft("log.when");
  const moment = momentOf(when);
  const record = async () => {
    if (!("at" in moment)) return;
    const now = moment.at;
    const visit = uuidv7();
    const records = filled.flatMap(({ line, read }) => ("value" in read ? [{ id: uuidv7(), at: now, visit, ...line.body, value: read.value, as_typed: textOf(line), remark, by: person.name }] : []));
    if (await keep(records)) {
      for (const { line } of filled) type(line, "");
      setRemark("");
      setWhen("");
    }
  };
  return (
    <form
      aria-label="New readings"
      onSubmit={(e) => {
        e.preventDefault();
        if (filled.length > 0 && !wrong) void record();
      }}
    >
      <When value={when} put={setWhen} />
      {groups.map((group) => (
        <fieldset key={group.title} className="pb-2">
          <legend className="pt-1 text-small text-muted">{group.title}</legend>
          {group.lines.map((line) => {
            const read = readOf(line);
            const bad = read !== null && "error" in read;
            return (
              <label key={line.key} className="grid grid-cols-[1fr_9rem] items-center gap-3 border-b border-hair py-1">
                <span className="font-medium">{line.label}</span>
                <input
                  value={textOf(line)}
                  onChange={(e) => type(line, e.target.value)}
                  inputMode="decimal"
                  autoComplete="off"
                  placeholder={q.split(0, specOf(line)?.kind ?? "factor").unit}
                  aria-invalid={bad}
                  className={`min-h-10 w-full rounded-sm border-[1.5px] bg-card px-2 text-right placeholder:text-muted ${bad ? "border-stop bg-ember-wash" : "border-edge"}`}
                />
                {bad ? <span role="alert" className="col-span-2 text-small text-stop">{read.error}</span> : null}
              </label>
            );
          })}
        </fieldset>
      ))}
      <label className="grid grid-cols-[1fr_9rem] items-center gap-3 border-b border-hair py-1">
        <span className="font-medium">Remark</span>
        <input value={remark} onChange={(e) => setRemark(e.target.value)} maxLength={400} className="min-h-10 w-full rounded-sm border-[1.5px] border-edge bg-card px-2" />
      </label>
      <div className="pt-3">
        <Button type="submit" look="act" large disabled={filled.length === 0 || wrong || "error" in moment}>
          Record readings
        </Button>
      </div>
    </form>
  );
}

const AHEAD_MS = 5 * 60_000;

/** The moment that was typed, now where nothing was; or what is wrong with it. */
function momentOf(when: string): { at: string } | { error: string } {
  if (when === "") return { at: new Date().toISOString() };
  const found = new Date(when);
  if (Number.isNaN(found.getTime()) || found.getFullYear() < 2000) return { error: "Write a date and time, such as yesterday’s." };
  if (found.getTime() > Date.now() + AHEAD_MS) return { error: "This lies ahead; a reading was taken before it is written down." };
  return { at: found.toISOString() };
}

/** When it was read: left empty, now; yesterday's weights have yesterday's date. */
function When({ value, put }: { value: string; put: (text: string) => void }) {
  const read = momentOf(value);
  return (
    <label className="grid grid-cols-[1fr_13rem] items-center gap-3 border-b border-hair py-1">
      <span className="font-medium">
        Read at <span className="font-normal text-muted">left empty: now</span>
      </span>
      <input type="datetime-local" value={value} onChange={(e) => put(e.target.value)} aria-invalid={"error" in read} className={BOX} />
      {"error" in read ? <span role="alert" className="col-span-2 text-small text-stop">{read.error}</span> : null}
    </label>
  );
}

const BOX = "min-h-10 w-full rounded-sm border-[1.5px] border-edge bg-card px-2";

/** Anything else that may be logged, by its declaration. */
function Other({ keep }: { keep: Keep }) {
  const { vocabulary, person } = useSurroundings();
  const { plan } = useJob();
  const names = useNames();
  const q = useQuantities();
  const [chosen, setChosen] = useState("");
  const [texts, setTexts] = useState<Record<string, string>>({});
  const kind = vocabulary.log_kinds.find((k) => k.kind === chosen);
  const fields = kind ? fieldsOf(kind) : [];
  const reads = fields.map((f) => ({ ...f, read: f.spec.options ? { ok: true as const, value: texts[f.name] ?? f.spec.fallback } : readTyped(texts[f.name] ?? (f.spec.fallback === null ? "" : String(f.spec.fallback)), f.spec, q) }));
  const subjects = !kind || kind.of === "job" ? [] : kind.of === "supply" ? (plan?.supplies ?? []).map((s) => s.id) : (plan?.machines ?? []).map((m) => m.id);
  const whole = kind !== undefined && reads.every((r) => r.read.ok && r.read.value !== null && r.read.value !== "") && (fields.length > 0 || (texts["remark"] ?? "").trim() !== "");
  const record = async () => {
    const read = momentOf(texts["when"] ?? "");
    if (!kind || !whole || !("at" in read)) return;
    const own = Object.fromEntries(reads.flatMap((r) => (r.read.ok ? [[r.name, r.read.value]] : [])));
    const body = { id: uuidv7(), at: read.at, kind: kind.kind, subject: texts["subject"] ?? subjects[0] ?? "", ...own, as_typed: texts["value"] ?? "", remark: texts["remark"] ?? "", by: person.name };
    if (await keep([body])) setTexts({});
  };
  const put = (name: string, text: string) => setTexts({ ...texts, [name]: text });
  return (
    <form
      aria-label="Something else"
      className="mt-4 border-t-[1.5px] border-frame pt-2"
      onSubmit={(e) => {
        e.preventDefault();
        void record();
      }}
    >
      <label className="grid grid-cols-[1fr_12rem] items-center gap-3 py-1">
        <span className="font-medium">Something else</span>
        <Select
          value={chosen}
          onChange={(e) => {
            setChosen(e.target.value);
            setTexts({});
          }}
          className={BOX}
        >
          <option value="">— choose</option>
          {vocabulary.log_kinds.map((k) => (
            <option key={k.kind} value={k.kind}>
              {k.title}
            </option>
          ))}
        </Select>
      </label>
      {kind && subjects.length > 0 ? (
        <label className="grid grid-cols-[1fr_12rem] items-center gap-3 border-b border-hair py-1">
          <span className="font-medium">Of</span>
          <Select value={texts["subject"] ?? subjects[0]} onChange={(e) => put("subject", e.target.value)} className={BOX}>
            {subjects.map((id) => (
              <option key={id} value={id}>
                {names.get(id) ?? id}
              </option>
            ))}
          </Select>
        </label>
      ) : null}
      {reads.map(({ name, spec, read }) => (
        <label key={name} className="grid grid-cols-[1fr_12rem] items-center gap-3 border-b border-hair py-1">
          <span className="font-medium">{spec.title}</span>
          {spec.options ? (
            <Select value={texts[name] ?? spec.fallback ?? ""} onChange={(e) => put(name, e.target.value)} className={BOX}>
              {spec.fallback === null ? <option value="">— choose</option> : null}
              {spec.options.map((o) => (
                <option key={o.value} value={o.value}>
                  {o.reads}
                </option>
              ))}
            </Select>
          ) : (
            <input value={texts[name] ?? (spec.fallback === null ? "" : String(spec.fallback))} onChange={(e) => put(name, e.target.value)} autoComplete="off" className={`${BOX} text-right`} placeholder={spec.kind ? q.split(0, spec.kind).unit : ""} />
          )}
          {(texts[name] ?? "") !== "" && !read.ok ? <span role="alert" className="col-span-2 text-small text-stop">{read.error}</span> : null}
        </label>
      ))}
      {kind ? (
        <>
          <When value={texts["when"] ?? ""} put={(text) => put("when", text)} />
          <label className="grid grid-cols-[1fr_12rem] items-center gap-3 border-b border-hair py-1">
            <span className="font-medium">Remark</span>
            <input value={texts["remark"] ?? ""} onChange={(e) => put("remark", e.target.value)} maxLength={400} className={BOX} />
          </label>
          <div className="pt-3">
            <Button type="submit" disabled={!whole}>
              Record {kind.title.toLowerCase()}
            </Button>
          </div>
        </>
      ) : null}
    </form>
  );
}

const SHOWN = 24;

function Entries({ entries: all, keep }: { entries: LoggedEntry[]; keep: Keep }) {
  const { vocabulary } = useSurroundings();
  const q = useQuantities();
  const names = useNames();
  const [correcting, setCorrecting] = useState<string | null>(null);
  const kindOf = (e: LoggedEntry) => vocabulary.log_kinds.find((k) => k.kind === e.kind);
  const corrected = new Set(all.map((e) => e.corrects));
  // What is ticked on the kit list is no line of the log.
  const entries = all.filter((e) => e.kind !== "kit");
  const newest = [...entries].reverse().slice(0, SHOWN);
  if (entries.length === 0) return null;
  return (
    <section aria-label="Log" className="mt-5 border-t-[1.5px] border-frame pt-2">
      <h3 className="font-bold">
        Log <span className="font-normal text-muted">{entries.length > SHOWN ? `newest ${SHOWN} of ${entries.length}` : ""}</span>
      </h3>
      <ul>
        {newest.map((e) => {
          const kind = kindOf(e);
          const spec = quantityOf(kind);
          return (
            <li key={e.id} className={`grid grid-cols-[6.5rem_1fr_auto_auto] items-center gap-2 border-b border-hair py-1 text-small ${corrected.has(e.id) ? "text-muted line-through" : ""}`}>
              <span className="text-muted">{momentWords(e.at, "short")}</span>
              <span>
                {labelOf(e, kind)}
                {e.subject ? <span className="text-muted"> · {names.get(e.subject) ?? e.subject}</span> : null}
                {e.sent ? null : <span className="ml-1.5 text-ember-ink">here only</span>}
                {e.refusal ? <span className="block text-stop">{e.refusal.title}: see what waits</span> : null}
                {e.remark ? <span className="block text-muted">{e.remark}</span> : null}
              </span>
              <span className="text-right">{"value" in e && spec?.kind ? q.show(e.value, spec.kind, 4) : wordsOf(e, kind)}</span>
              {corrected.has(e.id) ? (
                <span>corrected</span>
              ) : "value" in e ? (
                <Button look="quiet" onClick={() => setCorrecting(e.id)}>
                  Correct
                </Button>
              ) : (
                <span />
              )}
              {correcting === e.id && kind ? <Correction entry={e} kind={kind} keep={keep} done={() => setCorrecting(null)} /> : null}
            </li>
          );
        })}
      </ul>
    </section>
  );
}

/** The right value in the place of a wrong one; what was read first stays in the log. */
function Correction({ entry, kind, keep, done }: { entry: LoggedEntry; kind: LogKind; keep: Keep; done: () => void }) {
  const { person } = useSurroundings();
  const q = useQuantities();
  const [text, setText] = useState(entry.as_typed ?? "");
  const spec = quantityOf(kind);
  const read = spec ? readTyped(text, spec, q) : null;
  const correct = async () => {
    if (!read?.ok || typeof read.value !== "number") return;
    const { id: corrects, sent: _sent, refusal: _refusal, ...old } = entry;
    if (await keep([{ ...old, id: uuidv7(), value: read.value, as_typed: text, corrects, by: person.name }])) done();
  };
  return (
    <form
      className="col-span-4 flex flex-wrap gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        void correct();
      }}
    >
      <input aria-label="Right value" value={text} onChange={(x) => setText(x.target.value)} className={`${BOX} flex-1 text-right`} />
      <Button type="submit" look="act" disabled={!read?.ok || typeof read.value !== "number"}>
        Record correction
      </Button>
      <Button onClick={done}>Leave it</Button>
      {read && !read.ok ? <span role="alert" className="w-full text-stop">{read.error}</span> : null}
    </form>
  );
}
