// The team's vessels: serial, tare, where each is, how full it was weighed, until when it may be filled; moved from here.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Select } from "@headlessui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { v7 as uuidv7 } from "uuid";
import { Problem, type Vessel, answer, api } from "../api/client";
import { nowIs } from "../api/lists";
import { BOX } from "../stages/running/When";
import { Button, Message, Skeleton } from "../ui/controls";
import { Mark } from "../ui/Mark";
import { moment, useQuantities, useSurroundings } from "../app/context";

const whereWords = () =>
  ({ yard: t`in the yard`, truck: t`on the van`, job: t`at a job`, filler: t`at the filling station` }) as const;
type Where = keyof ReturnType<typeof whereWords>;

export function Stock() {
  const { person } = useSurroundings();
  const client = useQueryClient();
  const found = useQuery({ queryKey: ["stock", person.team_id], queryFn: () => answer(api.GET("/api/stock")) });
  const [problem, setProblem] = useState<Problem | null>(null);
  const [open, setOpen] = useState<string | null>(null);
  const [where, setWhere] = useState("");
  const put = async (change: Promise<Vessel[]>) => {
    setProblem(null);
    try {
      await nowIs(client, ["stock", person.team_id], await change);
      setOpen(null);
    } catch (wrong) {
      if (!(wrong instanceof Problem)) throw wrong;
      setProblem(wrong);
    }
  };
  const shown = (found.data ?? []).filter((v) => where === "" || v.stands.where === where);
  const lead = person.role === "lead";
  return (
    <main className="mx-auto w-full max-w-5xl flex-1 px-5 py-5">
      <Link data-testid="to-jobs" to="/" className="text-muted underline">{t`Jobs`}</Link>
      <div className="flex flex-wrap items-center gap-3 pb-2">
        <h1 className="mr-auto text-big font-bold">
          <Trans>Cylinders and tanks of {person.team}</Trans>
        </h1>
        <Select
          aria-label={t`Where`}
          value={where}
          onChange={(e) => setWhere(e.target.value)}
          className="rounded-sm border border-edge bg-card px-1 py-0.5"
        >
          <option value="">{t`everywhere`}</option>
          {Object.entries(whereWords()).map(([w, words]) => (
            <option key={w} value={w}>
              {words}
            </option>
          ))}
        </Select>
        {lead ? <Button look="act" onClick={() => setOpen("new")}>{t`Add cylinder or tank`}</Button> : null}
      </div>
      {problem ? (
        <div className="pb-3">
          <Message failed title={problem.status === 0 ? t`No signal: the stock is kept by the server` : problem.message}>
            {problem.faults.map((f) => `${f.path.replace(/^\./, "")} ${f.message}`).join("; ") || problem.detail}
          </Message>
        </div>
      ) : null}
      {open === "new" ? (
        <Sheet
          put={(sheet) => void put(answer(api.PUT("/api/stock/{key}", { params: { path: { key: sheet.id } }, body: { sheet } })))}
          done={() => setOpen(null)}
        />
      ) : null}
      {found.isError ? (
        <Message
          failed
          title={t`The stock list is not on this device`}
        >{t`It is kept on the server. Look again when there is signal.`}</Message>
      ) : null}
      {found.isLoading ? <Skeleton /> : null}
      {found.data?.length === 0 ? (
        <Message
          title={t`No cylinder or tank yet`}
        >{t`Enter the serial number, tare and water capacity of each. Ofen then warns you when one is overfilled, out of date or lost.`}</Message>
      ) : null}
      <ul className={shown.length > 0 ? "border-t-[1.5px] border-frame" : ""}>
        {shown.map((v) => (
          <Line
            key={v.key}
            vessel={v}
            open={open === v.key}
            toggle={() => setOpen(open === v.key ? null : v.key)}
            put={put}
            lead={lead}
            may={person.role !== "guest"}
          />
        ))}
      </ul>
    </main>
  );
}

interface LineProps {
  vessel: Vessel;
  open: boolean;
  toggle: () => void;
  put: (change: Promise<Vessel[]>) => Promise<void>;
  lead: boolean;
  may: boolean;
}

function Line({ vessel, open, toggle, put, lead, may }: LineProps) {
  const q = useQuantities();
  const { stands } = vessel;
  const sheet = vessel.sheet as { serial: string; name: string; tare_kg: number; requalify_on: string | null };
  const full = stands.fill_fraction;
  return (
    <li className="border-b border-rule py-2">
      <div className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-x-4 gap-y-1 sm:grid-cols-[minmax(0,1fr)_minmax(0,1fr)_8rem_auto]">
        <span>
          <b>{sheet.serial}</b> <span className="text-muted">{sheet.name}</span>
          <span className="block text-small text-muted">
            <Trans>
              tare {q.show(sheet.tare_kg, "mass")}
              {sheet.requalify_on ? t`, until ${sheet.requalify_on}` : ""}
            </Trans>
          </span>
        </span>
        <span className="max-sm:col-span-2 max-sm:row-start-2">
          {stands.where
            ? stands.where === "job"
              ? vessel.job_name || t`at a job`
              : whereWords()[stands.where]
            : t`location unknown`}
          <span className="block text-small text-muted">{stands.since_s === null ? "" : t`since ${moment(stands.since_s)}`}</span>
        </span>
        <span className="max-sm:col-span-2">
          {full === null ? (
            <span className="text-muted">{t`not weighed`}</span>
          ) : (
            <>
              <span className="block h-2.5 border border-edge bg-card" aria-hidden="true">
                <span
                  className={`block h-full ${full > 0.808 ? "bg-stop" : "bg-gas"}`}
                  style={{ width: `${Math.min(100, full * 100)}%` }}
                />
              </span>
              <span className="text-small">
                <Trans>
                  {Math.round(full * 100)} % full, {q.show(stands.net_kg ?? 0, "mass")}
                </Trans>
              </span>
            </>
          )}
        </span>
        {may ? (
          <Button onClick={toggle}>
            <Trans>
              Move<span className="sr-only"> {sheet.serial}</span>
            </Trans>
          </Button>
        ) : (
          <span />
        )}
      </div>
      {stands.says.map((s) => (
        <p key={s.say} className="flex items-start gap-1.5 pt-1 text-small">
          <Mark level={s.level} size={16} /> {s.say}
        </p>
      ))}
      {open ? <Move vessel={vessel} put={put} lead={lead} /> : null}
    </li>
  );
}

function Move({ vessel, put, lead }: { vessel: Vessel; put: LineProps["put"]; lead: boolean }) {
  const q = useQuantities();
  const { person } = useSurroundings();
  const jobs = useQuery({ queryKey: ["jobs-by-name"], queryFn: () => answer(api.GET("/api/jobs")) });
  const [where, setWhere] = useState<Where>("job");
  const [job, setJob] = useState("");
  const [weight, setWeight] = useState("");
  const read = weight.trim() === "" ? null : q.read(weight, "mass");
  const wrong = read !== null && "error" in read ? read.error : "";
  const move = () => {
    const gross_kg = read && "value" in read ? read.value : null;
    const body = {
      id: uuidv7(),
      at: new Date().toISOString(),
      where,
      job: where === "job" ? job || (jobs.data?.[0]?.id ?? "") : "",
      gross_kg,
      by: person.name,
    };
    void put(answer(api.POST("/api/stock/{key}/moves", { params: { path: { key: vessel.key } }, body: { move: body } })));
  };
  return (
    <form
      aria-label={t`Record move`}
      className="grid gap-2 bg-card p-2 sm:grid-cols-4"
      onSubmit={(e) => {
        e.preventDefault();
        if (!wrong) move();
      }}
    >
      <Select aria-label={t`Moves to`} value={where} onChange={(e) => setWhere(e.target.value as Where)} className={BOX}>
        {Object.entries(whereWords()).map(([w, words]) => (
          <option key={w} value={w}>
            {words}
          </option>
        ))}
      </Select>
      {where === "job" ? (
        <Select aria-label={t`Open the job`} value={job} onChange={(e) => setJob(e.target.value)} className={BOX}>
          {(jobs.data ?? []).map((j) => (
            <option key={j.id} value={j.id}>
              {j.name}
            </option>
          ))}
        </Select>
      ) : (
        <span className="max-sm:hidden" />
      )}
      <span>
        <input
          aria-label={t`Gross weight`}
          value={weight}
          onChange={(e) => setWeight(e.target.value)}
          inputMode="decimal"
          placeholder={t`Weight, ${q.split(0, "mass").unit}`}
          className={`${BOX} text-right`}
        />
        {wrong ? (
          <span role="alert" className="block text-small text-stop">
            {wrong}
          </span>
        ) : null}
      </span>
      <span className="flex gap-2">
        <Button
          type="submit"
          look="act"
          disabled={wrong !== "" || (where === "job" && (jobs.data ?? []).length === 0)}
        >{t`Save the move`}</Button>
        {lead ? (
          <Button
            onClick={() => void put(answer(api.DELETE("/api/stock/{key}", { params: { path: { key: vessel.key } } })))}
          >{t`Remove from stock`}</Button>
        ) : null}
      </span>
    </form>
  );
}

interface SheetProps {
  put: (sheet: {
    id: string;
    serial: string;
    name: string;
    tare_kg: number;
    water_m3: number;
    requalify_on: string | null;
  }) => void;
  done: () => void;
}

function Sheet({ put, done }: SheetProps) {
  const q = useQuantities();
  const [texts, setTexts] = useState({ serial: "", name: "", tare: "", water: "", until: "" });
  const [tare, water] = [q.read(texts.tare, "mass"), q.read(texts.water, "liquid_volume")];
  const field = (name: keyof typeof texts, label: string, more: { type?: string; unit?: string } = {}) => (
    <label className="grid gap-1">
      <span className="font-medium">{label}</span>
      <input
        type={more.type ?? "text"}
        value={texts[name]}
        placeholder={more.unit ?? ""}
        onChange={(e) => setTexts({ ...texts, [name]: e.target.value })}
        className={BOX}
      />
    </label>
  );
  const whole = texts.serial.trim() !== "" && "value" in tare && "value" in water;
  return (
    <form
      aria-label={t`Cylinder or tank`}
      className="mb-3 grid gap-2 bg-card p-3 sm:grid-cols-5"
      onSubmit={(e) => {
        e.preventDefault();
        if ("value" in tare && "value" in water)
          put({
            id: uuidv7(),
            serial: texts.serial.trim(),
            name: texts.name,
            tare_kg: tare.value,
            water_m3: water.value,
            requalify_on: texts.until || null,
          });
      }}
    >
      {field("serial", t`Serial`)}
      {field("name", t`Kind`)}
      {field("tare", t`Tare (TW)`, { unit: q.split(0, "mass").unit })}
      {field("water", t`Water capacity (WC)`, { unit: q.split(0, "liquid_volume").unit })}
      {field("until", t`Requalify by`, { type: "date" })}
      <div className="flex gap-2 sm:col-span-5">
        <Button type="submit" look="act" disabled={!whole}>{t`Save cylinder or tank`}</Button>
        <Button onClick={done}>{t`Cancel`}</Button>
      </div>
    </form>
  );
}
