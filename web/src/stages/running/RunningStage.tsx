import { useMemo, useState } from "react";
import { useParams } from "react-router";
import { moment, useQuantities, useSurroundings } from "../../app/context";
import { type LoggedEntry, useDraft, useJob, useJobStore, useRecords } from "../../job/context";
import { at } from "../../job/document";
import type { RecordBody } from "../../outbox/db";
import { isFull } from "../../outbox/device";
import { freshUuid } from "../../outbox/uuid";
import { ComesTo, StageColumns } from "../../ui/answers";
import { Button, Message } from "../../ui/controls";
import { WeightChart } from "./WeightChart";

type Keep = (records: RecordBody[]) => Promise<boolean>;

/** The log: readings in, what they come to out. */
export function RunningStage() {
  const { jobId = "" } = useParams();
  const { device, sender } = useSurroundings();
  const { entries } = useRecords();
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
    <StageColumns
      given={
        <>
          {full ? (
            <Message failed title="This device has no room left: these readings were not kept">
              Save the job to a file, make room, and record them again.
            </Message>
          ) : null}
          <Readings keep={keep} />
          <Entries entries={entries} keep={keep} />
        </>
      }
      comes={<Comes />}
    />
  );
}

function Comes() {
  const { plan } = useJob();
  const { running: stage } = useRecords();
  const weights = useMemo(() => (stage?.tables["weight"] ?? []) as { at_s: number; left_kg: number }[], [stage]);
  const reserve = stage?.tables["reserve"]?.[0] as { left_kg: number; full_kg: number } | undefined;
  const changes = (stage?.tables["change_over"] ?? []) as { at_s: number; which: string }[];
  const planned = plan?.supplies.flatMap((s) => s.stage.figures).find((f) => f.key === "supply.flow_kg_per_s")?.value ?? null;
  return (
    <ComesTo stage={stage}>
      {weights.length > 0 && reserve ? (
        <WeightChart weights={weights} reserve_kg={reserve.left_kg} full_kg={reserve.full_kg} planned_kg_per_s={planned} change_over_s={changes.find((c) => c.which === "likely")?.at_s ?? null} />
      ) : null}
    </ComesTo>
  );
}

interface Line {
  key: string;
  label: string;
  quantity: string;
  vessel?: number;
}

function Readings({ keep }: { keep: Keep }) {
  const { document, drafts } = useJob();
  const store = useJobStore();
  const { vocabulary, person } = useSurroundings();
  const q = useQuantities();
  const [remark, setRemark] = useDraft("log.remark");
  const textOf = (line: Line) => drafts[`log.${line.key}`] ?? "";
  const type = (line: Line, text: string) => store.draft(`log.${line.key}`, text === "" ? null : text);
  const count = at(document, "supplies[0].storage.count");
  const vessels = typeof count === "number" ? count : 1;
  const lines: Line[] = vocabulary.log_quantities.flatMap((l) =>
    l.name === "gross_weight"
      ? Array.from({ length: vessels }, (_, n) => ({ key: `vessel-${n + 1}`, label: `Vessel ${n + 1} on the scale`, quantity: l.name, vessel: n + 1 }))
      : [{ key: l.name, label: l.label, quantity: l.name }],
  );
  const spec = (quantity: string) => vocabulary.log_quantities.find((l) => l.name === quantity);
  const readOf = (line: Line): { value: number } | { error: string } | null => {
    const text = textOf(line).trim();
    const known = spec(line.quantity);
    if (!text || !known) return null;
    const read = q.read(text, known.kind);
    if ("error" in read) return read;
    return read.value < known.low || read.value > known.high ? { error: `Allowed is ${q.show(known.low, known.kind, 6)} to ${q.show(known.high, known.kind, 6)}.` } : read;
  };
  const reads = lines.map((line) => ({ line, read: readOf(line) }));
  const filled = reads.filter((r) => r.read !== null);
  const wrong = filled.some((r) => r.read && "error" in r.read);
  const record = async () => {
    const now = new Date().toISOString();
    const records = filled.flatMap(({ line, read }) =>
      read && "value" in read ? [{ id: freshUuid(), at: now, quantity: line.quantity, value: read.value, as_typed: textOf(line), remark, by: person.name, ...(line.vessel ? { vessel: line.vessel } : {}) }] : [],
    );
    if (await keep(records)) {
      for (const { line } of filled) type(line, "");
      setRemark("");
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
      {reads.map(({ line, read }) => (
        <label key={line.key} className="grid grid-cols-[1fr_9rem] items-center gap-3 border-b border-hair py-1">
          <span className="font-medium">{line.label}</span>
          <input
            value={textOf(line)}
            onChange={(e) => type(line, e.target.value)}
            inputMode="decimal"
            autoComplete="off"
            placeholder={q.split(0, spec(line.quantity)?.kind ?? "factor").unit}
            aria-invalid={!!read && "error" in read}
            className={`min-h-10 w-full rounded-sm border-[1.5px] bg-card px-2 text-right placeholder:text-muted ${read && "error" in read ? "border-stop bg-ember-wash" : "border-edge"}`}
          />
          {read && "error" in read ? <span role="alert" className="col-span-2 text-small text-stop">{read.error}</span> : null}
        </label>
      ))}
      <label className="grid grid-cols-[1fr_9rem] items-center gap-3 border-b border-hair py-1">
        <span className="font-medium">Remark</span>
        <input value={remark} onChange={(e) => setRemark(e.target.value)} maxLength={400} className="min-h-10 w-full rounded-sm border-[1.5px] border-edge bg-card px-2" />
      </label>
      <div className="pt-3">
        <Button type="submit" look="act" large disabled={filled.length === 0 || wrong}>
          Record readings
        </Button>
      </div>
    </form>
  );
}

const SHOWN = 24;

function Entries({ entries, keep }: { entries: LoggedEntry[]; keep: Keep }) {
  const { vocabulary, person } = useSurroundings();
  const q = useQuantities();
  const [correcting, setCorrecting] = useState<LoggedEntry | null>(null);
  const [text, setText] = useState("");
  const kindOf = (e: LoggedEntry) => vocabulary.log_quantities.find((l) => l.name === e.quantity);
  const corrected = new Set(entries.map((e) => e.corrects));
  const newest = [...entries].reverse().slice(0, SHOWN);
  const correct = async (old: LoggedEntry) => {
    const read = q.read(text, kindOf(old)?.kind ?? "factor");
    if ("error" in read) return;
    const { id: corrects, vessel, quantity, at: when } = old;
    if (await keep([{ id: freshUuid(), at: when, quantity, value: read.value, as_typed: text, corrects, by: person.name, ...(vessel ? { vessel } : {}) }])) setCorrecting(null);
  };
  if (entries.length === 0) return null;
  return (
    <section aria-label="Log" className="mt-5 border-t-[1.5px] border-frame pt-2">
      <h3 className="font-bold">
        Log <span className="font-normal text-muted">{entries.length > SHOWN ? `newest ${SHOWN} of ${entries.length}` : ""}</span>
      </h3>
      <ul>
        {newest.map((e) => (
          <li key={e.id} className={`grid grid-cols-[6.5rem_1fr_auto_auto] items-center gap-2 border-b border-hair py-1 text-small ${corrected.has(e.id) ? "text-muted line-through" : ""}`}>
            <span className="text-muted">{moment(e.at, "short")}</span>
            <span>
              {kindOf(e)?.label}
              {e.vessel ? ` ${e.vessel}` : ""}
              {e.sent ? null : <span className="ml-1.5 text-ember-ink">here only</span>}
              {e.refusal ? <span className="block text-stop">{e.refusal.title}: see what waits</span> : null}
              {e.remark ? <span className="block text-muted">{e.remark}</span> : null}
            </span>
            <span className="text-right">{q.show(e.value, kindOf(e)?.kind ?? "factor", 4)}</span>
            {corrected.has(e.id) ? (
              <span>corrected</span>
            ) : (
              <Button
                look="quiet"
                onClick={() => {
                  setCorrecting(e);
                  setText(e.as_typed);
                }}
              >
                Correct
              </Button>
            )}
            {correcting?.id === e.id ? (
              <span className="col-span-4 flex gap-2">
                <input aria-label="Right value" value={text} onChange={(x) => setText(x.target.value)} className="min-h-10 flex-1 rounded-sm border-[1.5px] border-edge bg-card px-2 text-right" />
                <Button look="act" onClick={() => void correct(e)}>
                  Record correction
                </Button>
                <Button onClick={() => setCorrecting(null)}>Leave it</Button>
              </span>
            ) : null}
          </li>
        ))}
      </ul>
    </section>
  );
}
