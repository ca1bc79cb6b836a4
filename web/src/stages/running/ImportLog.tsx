// A file of readings: seen, each column said what it is, looked through with every bad row named, brought in with its progress, taken back.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Select } from "@headlessui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { type ImportPreview, type Imported, Problem, answer, api, asForm } from "../../api/client";
import { lookAgain } from "../../api/lists";
import { moment, useQuantities, useSurroundings } from "../../app/context";
import { useJobStore } from "../../job/context";
import { fetchJob } from "../../outbox/copy";
import { Button, Message } from "../../ui/controls";
import { fieldsOf, quantityOf } from "./kinds";
import type { Names } from "./names";
import { BOX } from "./When";

type Column = Imported["columns"][number];

const whats = (): { value: Column["what"]; reads: string }[] => [
  { value: "at", reads: t`date and time` },
  { value: "date", reads: "date" },
  { value: "time", reads: t`time of day` },
  { value: "reading", reads: t`a reading` },
  { value: "remark", reads: "remark" },
  { value: "ignore", reads: t`skipped` },
];

export function ImportLog({ names }: { names: Names }) {
  const { id: job, role } = useJobStore();
  const { device } = useSurroundings();
  const client = useQueryClient();
  const found = useQuery({
    queryKey: ["imports", job],
    queryFn: () => answer(api.GET("/api/jobs/{job_id}/imports", { params: { path: { job_id: job } } })),
  });
  const [made, setMade] = useState<Imported | null>(null);
  const [preview, setPreview] = useState<ImportPreview | null>(null);
  const [problem, setProblem] = useState<Problem | null>(null);
  const [busy, setBusy] = useState(false);
  const tried = async (act: () => Promise<void>) => {
    setProblem(null);
    setBusy(true);
    try {
      await act();
    } catch (wrong) {
      if (!(wrong instanceof Problem)) throw wrong;
      setProblem(wrong);
    } finally {
      setBusy(false);
    }
  };
  const settled = async () => {
    await lookAgain(client, ["imports", job]);
    await fetchJob(device, job);
  };
  const see = (file: File | undefined) =>
    file &&
    void tried(async () => {
      const form = new FormData();
      form.append("file", file);
      const sent = await answer(api.POST("/api/jobs/{job_id}/imports", { params: { path: { job_id: job } }, ...asForm(form) }));
      setPreview(null);
      setMade({ ...sent, zone: sent.zone || Intl.DateTimeFormat().resolvedOptions().timeZone });
    });
  const look = (now: Imported) =>
    void tried(async () =>
      setPreview(
        await answer(
          api.POST("/api/imports/{import_id}/preview", {
            params: { path: { import_id: now.id } },
            body: { columns: now.columns, zone: now.zone, day_first: now.day_first, subject: now.subject },
          }),
        ),
      ),
    );
  const bring = (now: Imported) =>
    void tried(async () => {
      let state = now;
      while (state.state !== "done") {
        state = await answer(api.POST("/api/imports/{import_id}/go", { params: { path: { import_id: now.id } } }));
        setMade({ ...now, ...state });
      }
      setMade(null);
      setPreview(null);
      await settled();
    });
  const undo = (id: string) =>
    void tried(async () => {
      await answer(api.POST("/api/imports/{import_id}/undo", { params: { path: { import_id: id } } }));
      await settled();
    });
  if (role === "guest") return null;
  const change = (next: Imported) => {
    setMade(next);
    setPreview(null);
  };
  return (
    <section data-testid="import" aria-label={t`Import readings`} className="no-print mt-4 border-t-[1.5px] border-frame pt-2">
      <h3 className="font-bold">{t`Import readings from a file`}</h3>
      <label className="mt-1 inline-flex min-h-10 cursor-pointer items-center rounded-sm border-[1.5px] border-frame bg-card px-3 font-medium focus-within:outline-2">
        <Trans>
          Choose a CSV or XLSX file
          <input
            data-testid="log-file"
            type="file"
            accept=".csv,.txt,.tsv,.xlsx"
            className="sr-only"
            onChange={(e) => {
              see(e.target.files?.[0]);
              e.target.value = "";
            }}
          />
        </Trans>
      </label>
      {problem ? (
        <div className="pt-2">
          <Message failed title={problem.message}>
            {problem.detail}
          </Message>
        </div>
      ) : null}
      {made ? (
        <>
          <p className="pt-2">
            <Trans>
              <b>{made.name}</b>, {made.rows.toLocaleString("en")} rows, read as {made.encoding}
              {made.known ? t`, read with the same headings as last time.` : "."}
            </Trans>
          </p>
          {made.state === "coming" ? (
            <p role="status">
              <Trans>
                <progress max={made.rows} value={made.row} className="mr-2 align-middle" aria-label={t`Imported rows`} />
                {made.row.toLocaleString("en")} of {made.rows.toLocaleString("en-GB")} rows
              </Trans>
            </p>
          ) : (
            <Mapping made={made} change={change} names={names} />
          )}
          <div className="flex flex-wrap gap-2 py-2">
            <Button
              data-testid="preview"
              look={preview ? "plain" : "act"}
              disabled={busy}
              onClick={() => look(made)}
            >{t`Preview`}</Button>
            {preview && preview.entries > 0 ? (
              <Button data-testid="bring-in" look="act" disabled={busy} onClick={() => bring(made)}>
                <Trans>Import {preview.entries.toLocaleString("en")} entries</Trans>
              </Button>
            ) : null}
            <Button disabled={busy} onClick={() => setMade(null)}>{t`Cancel`}</Button>
          </div>
          {preview ? <Found preview={preview} /> : null}
        </>
      ) : null}
      <ul>
        {(found.data ?? [])
          .filter((i) => i.state !== "seen")
          .map((i) => (
            <li key={i.id} className="flex items-center gap-2 border-b border-hair py-1 text-small">
              <span className={`min-w-0 flex-1 ${i.state === "undone" ? "text-muted line-through" : ""}`}>
                <Trans>
                  {i.name}: {i.kept.toLocaleString("en")} entries{i.wrong > 0 ? t`, ${i.wrong} bad` : ""} · {i.by},{" "}
                  {moment(i.made_at, "short")}
                </Trans>
              </span>
              {i.state === "undone" ? (
                <span className="text-muted">{t`undone`}</span>
              ) : (
                <Button data-testid="undo-import" look="quiet" disabled={busy} onClick={() => undo(i.id)}>
                  <Trans>
                    Undo import<span className="sr-only">: {i.name}</span>
                  </Trans>
                </Button>
              )}
            </li>
          ))}
      </ul>
    </section>
  );
}

interface MappingProps {
  made: Imported;
  change: (made: Imported) => void;
  names: Names;
}

function Mapping({ made, change, names }: MappingProps) {
  const put = (n: number, next: Partial<Column>) =>
    change({ ...made, columns: made.columns.map((c, at) => (at === n ? { ...c, ...next } : c)) });
  const zones = (Intl as { supportedValuesOf?: (what: string) => string[] }).supportedValuesOf?.("timeZone") ?? [made.zone];
  return (
    <>
      <ul className="pt-1">
        {made.columns.map((c, n) => (
          <li
            key={`${n} ${c.heading}`}
            className="grid grid-cols-[1fr_8rem] gap-2 border-b border-hair py-1 sm:grid-cols-[minmax(0,1fr)_8rem_minmax(0,11rem)]"
          >
            <span className="min-w-0 self-center font-medium">{c.heading || t`Column ${n + 1}`}</span>
            <Select
              aria-label={t`${c.heading || t`Column ${n + 1}`} is`}
              value={c.what}
              onChange={(e) =>
                put(n, {
                  what: e.target.value as Column["what"],
                  body: e.target.value === "reading" && !("kind" in c.body) ? { kind: "air", where: "outside" } : c.body,
                })
              }
              className={BOX}
            >
              {whats().map((w) => (
                <option key={w.value} value={w.value}>
                  {w.reads}
                </option>
              ))}
            </Select>
            {c.what === "reading" ? <Of column={c} put={(next) => put(n, next)} /> : <span className="max-sm:hidden" />}
          </li>
        ))}
      </ul>
      <div className="grid gap-2 pt-2 sm:grid-cols-3">
        <label>
          <span className="text-small text-muted">{t`Time zone of times without one`}</span>
          <Select value={made.zone} onChange={(e) => change({ ...made, zone: e.target.value })} className={BOX}>
            {[...new Set([made.zone, ...zones])].map((z) => (
              <option key={z}>{z}</option>
            ))}
          </Select>
        </label>
        <label>
          <span className="text-small text-muted">{t`In 3/4/2026 the first is`}</span>
          <Select
            value={made.day_first === null ? "" : String(made.day_first)}
            onChange={(e) => change({ ...made, day_first: e.target.value === "" ? null : e.target.value === "true" })}
            className={BOX}
          >
            <option value="">{t`(does not matter)`}</option>
            <option value="true">{t`the day`}</option>
            <option value="false">{t`the month`}</option>
          </Select>
        </label>
        <label>
          <span className="text-small text-muted">{t`Time zone of the readings`}</span>
          <Select value={made.subject} onChange={(e) => change({ ...made, subject: e.target.value })} className={BOX}>
            <option value="">{t`the only one`}</option>
            {[...names].map(([id, name]) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </Select>
        </label>
      </div>
    </>
  );
}

/** Which reading a column is, and in which unit. */
function Of({ column, put }: { column: Column; put: (next: Partial<Column>) => void }) {
  const { vocabulary, kinds } = useSurroundings();
  const choices = vocabulary.log_kinds.filter((k) => quantityOf(k)?.kind);
  const body = column.body as { kind?: string; where?: string; vessel?: number };
  const kind = choices.find((k) => k.kind === body.kind) ?? choices[0];
  const where = kind ? fieldsOf(kind).find((f) => f.name === "where")?.spec : undefined;
  const quantity = quantityOf(kind)?.kind;
  const fresh = (name: string) => {
    const next = choices.find((k) => k.kind === name);
    const fields = next ? fieldsOf(next) : [];
    const options = fields.find((f) => f.name === "where")?.spec.options;
    put({
      body: {
        kind: name,
        ...(options?.[0] ? { where: options[0].value } : {}),
        ...(fields.some((f) => f.name === "vessel") ? { vessel: 1 } : {}),
      },
      unit: "",
    });
  };
  return (
    <span className="grid gap-1 max-sm:col-span-2">
      <Select
        aria-label={t`${column.heading}: reading`}
        value={kind?.kind ?? ""}
        onChange={(e) => fresh(e.target.value)}
        className={BOX}
      >
        {choices.map((k) => (
          <option key={k.kind} value={k.kind}>
            {k.title}
          </option>
        ))}
      </Select>
      {where?.options ? (
        <Select
          aria-label={t`${column.heading}: where`}
          value={body.where ?? ""}
          onChange={(e) => put({ body: { ...column.body, where: e.target.value } })}
          className={BOX}
        >
          {where.options.map((o) => (
            <option key={o.value} value={o.value}>
              {o.reads}
            </option>
          ))}
        </Select>
      ) : null}
      {body.vessel === undefined ? null : (
        <input
          aria-label={t`${column.heading}: vessel`}
          type="number"
          min={1}
          max={60}
          value={body.vessel}
          onChange={(e) => put({ body: { ...column.body, vessel: Number(e.target.value) } })}
          className={BOX}
        />
      )}
      {quantity ? (
        <Select
          aria-label={t`${column.heading}: unit`}
          value={column.unit || (kinds[quantity]?.metric ?? "")}
          onChange={(e) => put({ unit: e.target.value })}
          className={BOX}
        >
          {(kinds[quantity]?.units ?? []).map((u) => (
            <option key={u.symbol} value={u.symbol}>
              {u.symbol}
            </option>
          ))}
        </Select>
      ) : null}
    </span>
  );
}

/** What it would bring: the first entries as they would stand, every bad row by its number. */
function Found({ preview }: { preview: ImportPreview }) {
  const { vocabulary } = useSurroundings();
  const q = useQuantities();
  return (
    <div className="border-t border-rule pt-2 text-small">
      <p role="status" className="font-medium">
        <Trans>
          {preview.entries.toLocaleString("en")} entries in {preview.rows.toLocaleString("en-GB")} rows,{" "}
          {preview.wrong === 0 ? t`no bad rows` : t`${preview.wrong.toLocaleString("en")} bad and skipped`}
        </Trans>
      </p>
      {Object.entries(preview.notes).map(([words, count]) => (
        <p key={words}>
          {words} {count > 1 ? t`(${count} times)` : ""}
        </p>
      ))}
      <ul aria-label={t`First entries`} className="py-1">
        {preview.first.map((e, n) => {
          const kind = vocabulary.log_kinds.find((k) => k.kind === e["kind"]);
          const quantity = quantityOf(kind)?.kind;
          return (
            <li key={n} className="grid grid-cols-[9rem_1fr_auto] gap-2 border-b border-hair">
              <span className="text-muted">{moment(String(e["at"]))}</span>
              <span>{kind?.title}</span>
              <span>
                {quantity && typeof e["value"] === "number"
                  ? q.show(e["value"], quantity, 4)
                  : typeof e["remark"] === "string"
                    ? e["remark"]
                    : ""}
              </span>
            </li>
          );
        })}
      </ul>
      {preview.faults.length > 0 ? (
        <ul data-testid="bad-rows" aria-label={t`Bad rows`} className="max-h-60 overflow-auto">
          {preview.faults.map((f, n) => (
            <li key={n} className="text-stop">
              <Trans>
                Row {f.row}: {f.text}: {f.message}
              </Trans>
            </li>
          ))}
        </ul>
      ) : null}
    </div>
  );
}
