// Equipment, our own machines: data sheets in this job, their import and export, and the team's shelf.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { v7 as uuidv7 } from "uuid";
import { type Fault, Problem, answer, api } from "../../api/client";
import { lookAgain } from "../../api/lists";
import { useSurroundings } from "../../app/context";
import { ask } from "../../engine/ask";
import { useJob, useJobStore, useStage } from "../../job/context";
import { type Document, type Json, freshId, listAt, textAt } from "../../job/document";
import { namesAt } from "../../job/schema";
import { saveFile } from "../../outbox/save";
import { StagePart } from "../../ui/answers";
import { Button, Message } from "../../ui/controls";
import { JobField } from "../../ui/JobField";

const FORMAT = "ofen-sheet/1";
const ROWS: Record<string, string> = { heater: "burns", generator: "runs_on" };
const kindWords = (kind: string) => (kind === "heater" ? t`heater` : t`generator`);

/** The sheets with one more; one of the same id gives way to it. */
export function withSheet(sheets: Document[], sheet: Document): Json[] {
  const { format: _format, ...plain } = sheet;
  return [...sheets.filter((s) => textAt(s, "id") !== textAt(plain, "id")), plain];
}

/** Data sheets of machines that the shipped catalogue does not have. */
export function Sheets() {
  const store = useJobStore();
  const { document } = useJob();
  const stage = useStage("equipment");
  const sheets = listAt(document, "equipment.sheets");
  const [refused, setRefused] = useState<{ title: string; faults: Fault[] } | null>(null);
  const put = (sheet: Document) => store.edit("equipment.sheets", withSheet(sheets, sheet));
  const fresh = (kind: string) => put({ kind, id: `own-${uuidv7().slice(-10)}`, name: "", [ROWS[kind] ?? ""]: [{ id: "fuel-1" }] });
  const read = async (file: File) => {
    setRefused(null);
    try {
      const found: unknown = JSON.parse(await file.text());
      put((await ask("sheet", { sheet: found as Document })) as Document);
    } catch (problem) {
      setRefused(
        problem instanceof Problem
          ? { title: problem.message, faults: problem.faults }
          : { title: t`This file is no data sheet`, faults: [{ path: "", message: t`it is not JSON` }] },
      );
    }
  };
  return (
    <StagePart
      given={
        <>
          {sheets.length === 0 ? (
            <Message
              title={t`No machine of our own in this job`}
            >{t`Enter its data sheet, import one from a file, or use one from the team’s list. It is then ranked and chosen like any other.`}</Message>
          ) : null}
          {sheets.map((sheet, n) => (
            <Sheet
              key={textAt(sheet, "id")}
              sheet={sheet}
              n={n}
              remove={() =>
                store.edit(
                  "equipment.sheets",
                  sheets.filter((s) => s !== sheet),
                )
              }
            />
          ))}
          <div className="flex flex-wrap items-center gap-2 pt-3">
            <Button data-testid="write-heater" onClick={() => fresh("heater")}>{t`Add heater data sheet`}</Button>
            <Button data-testid="write-generator" onClick={() => fresh("generator")}>{t`Add generator data sheet`}</Button>
          </div>
          <label className="mt-3 block text-small">
            <Trans>
              Data sheet from a file (JSON){" "}
              <input
                data-testid="sheet-file"
                type="file"
                accept=".json,application/json"
                onChange={(e) => {
                  const file = e.target.files?.[0];
                  e.target.value = "";
                  if (file) void read(file);
                }}
              />
            </Trans>
          </label>
          {refused ? (
            <Message failed title={refused.title}>
              <ul data-testid="sheet-faults" aria-label={t`What is wrong with the sheet`}>
                {refused.faults.map((f) => (
                  <li key={`${f.path} ${f.message}`}>
                    <strong>{f.path || t`sheet`}</strong> {f.message}
                  </li>
                ))}
              </ul>
            </Message>
          ) : null}
        </>
      }
      stage={stage}
      part="sheets"
      choices={
        <>
          <Shelf sheets={sheets} put={put} />
        </>
      }
    />
  );
}

function Sheet({ sheet, n, remove }: { sheet: Document; n: number; remove: () => void }) {
  const store = useJobStore();
  const { vocabulary } = useSurroundings();
  const kind = textAt(sheet, "kind");
  const at = `equipment.sheets[${n}]`;
  const list = ROWS[kind] ?? "";
  const rows = listAt(sheet, list);
  const name = textAt(sheet, "name") || t`Own ${kindWords(kind)} ${n + 1}`;
  const fields = namesAt(vocabulary.job_schema, at, kind);
  const putRows = (next: Json[]) => store.edit(`${at}.${list}`, next);
  return (
    <section id={textAt(sheet, "id")} aria-label={name} className="mt-4 border-t-[1.5px] border-frame pt-2">
      <div className="flex flex-wrap items-center justify-between gap-2">
        <h3 className="text-base font-bold">{name}</h3>
        <span className="flex flex-wrap gap-3">
          <Button
            data-testid="save-sheet"
            look="quiet"
            onClick={() => saveFile(`${textAt(sheet, "id")}.json`, JSON.stringify({ format: FORMAT, ...sheet }, null, 1))}
          >
            <Trans>
              Save to a file<span className="sr-only"> {name}</span>
            </Trans>
          </Button>
          <Button data-testid="remove" look="quiet" onClick={remove}>
            <Trans>
              Remove<span className="sr-only"> {name}</span>
            </Trans>
          </Button>
        </span>
      </div>
      <div className="grid grid-cols-2 gap-x-2 gap-y-1">
        {fields.map((f) => (
          <JobField key={f} layout="stacked" of={name} path={`${at}.${f}`} partKind={kind} />
        ))}
      </div>
      <h4 className="mt-2 font-semibold">{t`On each fuel`}</h4>
      {rows.map((row, m) => (
        <div key={textAt(row, "id")} className="grid grid-cols-2 gap-x-2 gap-y-1 border-b border-rule py-1.5">
          {namesAt(vocabulary.job_schema, `${at}.${list}[${m}]`, kind).map((f) => (
            <JobField key={f} layout="stacked" of={t`${name}, fuel ${m + 1}`} path={`${at}.${list}[${m}].${f}`} partKind={kind} />
          ))}
          <Button data-testid="remove" look="quiet" onClick={() => putRows(rows.filter((r) => r !== row))}>
            <Trans>
              Remove this fuel<span className="sr-only"> of {name}</span>
            </Trans>
          </Button>
        </div>
      ))}
      <div className="pt-2">
        <Button
          onClick={() =>
            putRows([
              ...rows,
              {
                id: freshId(
                  "fuel",
                  rows.map((r) => textAt(r, "id")),
                ),
              },
            ])
          }
        >
          <Trans>
            Add fuel<span className="sr-only"> to {name}</span>
          </Trans>
        </Button>
      </div>
    </section>
  );
}

/** What the team owns; needs signal, for it is shared. */
function Shelf({ sheets, put }: { sheets: Document[]; put: (sheet: Document) => void }) {
  const client = useQueryClient();
  const shelf = useQuery({ queryKey: ["machines"], queryFn: () => answer(api.GET("/api/machines")) });
  const [trouble, setTrouble] = useState<{ key: string; words: string } | null>(null);
  const changed = () => void lookAgain(client, ["machines"]);
  const keep = async (sheet: Document) => {
    const key = textAt(sheet, "id");
    setTrouble(null);
    try {
      await answer(api.PUT("/api/machines/{key}", { params: { path: { key } }, body: { sheet: { format: FORMAT, ...sheet } } }));
    } catch (problem) {
      if (!(problem instanceof Problem)) throw problem;
      setTrouble({ key, words: [problem.message, ...problem.faults.map((f) => `${f.path} ${f.message}`)].join("; ") });
    }
    changed();
  };
  const takeOff = (key: string) =>
    void answer(api.DELETE("/api/machines/{key}", { params: { path: { key } } })).then(changed, (problem: unknown) =>
      setTrouble({ key, words: problem instanceof Problem ? problem.message : t`It is still in the team’s list` }),
    );
  const kept = shelf.data ?? [];
  return (
    <div className="border-t-[1.5px] border-frame">
      <h3 className="pb-1 text-small font-normal text-muted">{t`The team’s machines, for any job`}</h3>
      {shelf.isError ? (
        <p className="text-small text-muted">{t`The team’s list opens when there is signal. The machines in this job stay here.`}</p>
      ) : null}
      {shelf.isSuccess && kept.length === 0 ? (
        <p className="text-small text-muted">{t`The team has no machine of its own yet.`}</p>
      ) : null}
      <ul data-testid="shelf" aria-label={t`The team’s machines`}>
        {kept.map((m) => (
          <li key={m.key} className="flex flex-wrap items-baseline justify-between gap-3 border-b border-hair py-1">
            <span>
              {m.name}{" "}
              <span className="text-small text-muted">
                <Trans>
                  {kindWords(m.kind)}, added by {m.by}
                </Trans>
              </span>
            </span>
            <span className="flex flex-wrap gap-3">
              <Button data-testid="take-sheet" look="quiet" onClick={() => put(m.sheet as Document)}>
                <Trans>
                  Use in this job<span className="sr-only"> {m.name}</span>
                </Trans>
              </Button>
              <Button data-testid="off-shelf" look="quiet" onClick={() => takeOff(m.key)}>
                <Trans>
                  Remove<span className="sr-only"> from the team’s list {m.name}</span>
                </Trans>
              </Button>
            </span>
          </li>
        ))}
      </ul>
      {sheets.map((s) => (
        <div key={textAt(s, "id")} className="flex flex-wrap items-baseline justify-between gap-3 py-1">
          <span>
            {textAt(s, "name") || textAt(s, "id")} <span className="text-small text-muted">{t`in this job`}</span>
          </span>
          <Button data-testid="to-shelf" look="quiet" onClick={() => void keep(s)}>
            <Trans>
              Add to the team’s list<span className="sr-only"> {textAt(s, "name")}</span>
            </Trans>
          </Button>
        </div>
      ))}
      {trouble ? (
        <p role="alert" className="text-small font-medium text-stop">
          {trouble.key}: {trouble.words}
        </p>
      ) : null}
    </div>
  );
}
