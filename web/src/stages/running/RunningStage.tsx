import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Select } from "@headlessui/react";
import { useMemo, useState } from "react";
import type { Stage } from "../../api/client";
import { useParams } from "react-router";
import { v7 as uuidv7 } from "uuid";
import { useQuantities, useSurroundings } from "../../app/context";
import { useJob, useRecords } from "../../job/context";
import { readTyped } from "../../ui/JobField";
import { StagePart } from "../../ui/answers";
import { Button } from "../../ui/controls";
import { Calendars } from "./Calendars";
import { ChangeOvers } from "./ChangeOver";
import { DueList } from "./DueList";
import { fieldsOf } from "./kinds";
import { ImportLog } from "./ImportLog";
import { Log } from "./Log";
import { useNames } from "./names";
import { useKeep } from "./useKeep";
import { Readings } from "./Readings";
import { SeriesChart } from "./SeriesChart";
import { StopOrder } from "./StopOrder";
import { momentOf } from "./visiting";
import { ForecastOfTheLog } from "../../weather/Forecast";
import { BOX, MOST_REMARK, When } from "./When";
import { WeightChart } from "./WeightChart";

/** The log: readings in, what they come to out. */
export function RunningStage() {
  const { jobId = "" } = useParams();
  const { running } = useRecords();
  const names = useNames();
  return (
    <StagePart
      given={
        <>
          <ChangeOvers />
          <DueList />
          <Readings />
          <ForecastOfTheLog />
          <Other />
          <ImportLog names={names} />
          <Calendars job={jobId} />
        </>
      }
      stage={running}
      choices={
        <>
          <SeriesChart names={names} />
          <Log names={names} />
          <StopOrder />
        </>
      }
    >
      {running ? <Weights stage={running} /> : null}
    </StagePart>
  );
}

/** One chart for each supply that was weighed. */
function Weights({ stage }: { stage: Stage }) {
  const { plan } = useJob();
  const weights = useMemo(() => stage.tables["weight"] ?? [], [stage]);
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
        <WeightChart
          weights={own}
          reserve_kg={reserve.left_kg}
          full_kg={reserve.full_kg}
          planned_kg_per_s={planned}
          change_over_s={changes.find((c) => c.supply === reserve.supply && c.which === "likely")?.at_s ?? null}
        />
      </div>
    );
  });
}

/** Anything else that may be logged, by its declaration. */
function Other() {
  const { keep, noRoom } = useKeep();
  const { vocabulary, person } = useSurroundings();
  const { plan } = useJob();
  const names = useNames();
  const q = useQuantities();
  const [chosen, setChosen] = useState("");
  const [texts, setTexts] = useState<Record<string, string>>({});
  const kind = vocabulary.log_kinds.find((k) => k.kind === chosen);
  const fields = kind ? fieldsOf(kind) : [];
  const reads = fields.map((f) => ({
    ...f,
    read: f.spec.options
      ? { ok: true as const, value: texts[f.name] ?? f.spec.fallback }
      : readTyped(texts[f.name] ?? (f.spec.fallback === null ? "" : String(f.spec.fallback)), f.spec, q),
  }));
  const subjects =
    !kind || kind.of === "job"
      ? []
      : kind.of === "supply"
        ? (plan?.supplies ?? []).map((s) => s.id)
        : (plan?.machines ?? []).map((m) => m.id);
  const whole =
    kind !== undefined &&
    reads.every((r) => r.read.ok && r.read.value !== null && r.read.value !== "") &&
    (fields.length > 0 || (texts["remark"] ?? "").trim() !== "");
  const record = async () => {
    const read = momentOf(texts["when"] ?? "");
    if (!kind || !whole || !("at" in read)) return;
    const own = Object.fromEntries(reads.flatMap((r) => (r.read.ok ? [[r.name, r.read.value]] : [])));
    const body = {
      id: uuidv7(),
      ...read,
      kind: kind.kind,
      subject: texts["subject"] ?? subjects[0] ?? "",
      ...own,
      as_typed: texts["value"] ?? "",
      remark: texts["remark"] ?? "",
      by: person.name,
    };
    if (await keep([body])) setTexts({});
  };
  const put = (name: string, text: string) => setTexts({ ...texts, [name]: text });
  return (
    <form
      aria-label={t`Other entry`}
      className="mt-4 border-t-[1.5px] border-frame pt-2"
      onSubmit={(e) => {
        e.preventDefault();
        void record();
      }}
    >
      <label className="grid grid-cols-[1fr_12rem] items-center gap-3 py-1">
        <span className="font-medium">{t`Other entry`}</span>
        <Select
          value={chosen}
          onChange={(e) => {
            setChosen(e.target.value);
            setTexts({});
          }}
          className={BOX}
        >
          <option value="">{t`Choose one`}</option>
          {vocabulary.log_kinds.map((k) => (
            <option key={k.kind} value={k.kind}>
              {k.title}
            </option>
          ))}
        </Select>
      </label>
      {kind && subjects.length > 0 ? (
        <label className="grid grid-cols-[1fr_12rem] items-center gap-3 border-b border-hair py-1">
          <span className="font-medium">{t`Machine or supply`}</span>
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
              {spec.fallback === null ? <option value="">{t`Choose one`}</option> : null}
              {spec.options.map((o) => (
                <option key={o.value} value={o.value}>
                  {o.reads}
                </option>
              ))}
            </Select>
          ) : (
            <input
              value={texts[name] ?? (spec.fallback === null ? "" : String(spec.fallback))}
              onChange={(e) => put(name, e.target.value)}
              autoComplete="off"
              className={`${BOX} text-right`}
              placeholder={spec.kind ? q.split(0, spec.kind).unit : ""}
            />
          )}
          {(texts[name] ?? "") !== "" && !read.ok ? (
            <span role="alert" className="col-span-2 text-small text-stop">
              {read.error}
            </span>
          ) : null}
        </label>
      ))}
      {kind ? (
        <>
          <When value={texts["when"] ?? ""} put={(text) => put("when", text)} />
          <label className="grid grid-cols-[1fr_12rem] items-center gap-3 border-b border-hair py-1">
            <span className="font-medium">{t`Remark`}</span>
            <input
              value={texts["remark"] ?? ""}
              onChange={(e) => put("remark", e.target.value)}
              maxLength={MOST_REMARK}
              className={BOX}
            />
          </label>
          <div className="pt-3">
            {noRoom}
            <Button type="submit" disabled={!whole}>
              <Trans>Record {kind.title.toLowerCase()}</Trans>
            </Button>
          </div>
        </>
      ) : null}
    </form>
  );
}
