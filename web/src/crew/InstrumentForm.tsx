// The sheet of one instrument: kind, serial, calibration; where it is connected, and the values it gives.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import type { Fault, Instrument } from "../api/client";
import { Button } from "../ui/controls";
import { useSurroundings } from "../app/context";

type Sheet = Instrument["sheet"];
type Channel = Sheet["channels"][number];

const EMPTY: Sheet = {
  id: "",
  name: "",
  kind: "manometer",
  serial: "",
  calibrated_on: null,
  calibration_months: null,
  error_fraction: null,
  emissivity: null,
  link: "none",
  address: "",
  unit_id: 1,
  channels: [],
};
const BOX = "min-h-9 w-full rounded-sm border-[1.5px] border-edge bg-card px-2";

interface InstrumentFormProps {
  /** The sheet to change, null for a new one. */
  sheet: Sheet | null;
  /** What of it was refused. */
  faults: Fault[];
  /** Keep it; whether it was taken. */
  keep: (sheet: Sheet) => Promise<boolean>;
  done: () => void;
}

export function InstrumentForm({ sheet, faults, keep, done }: InstrumentFormProps) {
  const { vocabulary } = useSurroundings();
  const [made, setMade] = useState<Sheet>(sheet ?? EMPTY);
  const put = (change: Partial<Sheet>) => setMade({ ...made, ...change });
  const kind = vocabulary.instrument_kinds.find((k) => k.key === made.kind);
  const id =
    sheet?.id ??
    made.name
      .toLowerCase()
      .replaceAll(/[^a-z0-9]+/g, "-")
      .replaceAll(/^-|-$/g, "")
      .slice(0, 40);
  const fault = (path: string) => faults.find((f) => f.path === path)?.message;
  const save = async () => {
    if (await keep({ ...made, id })) done();
  };
  return (
    <form
      aria-label={t`Instrument`}
      className="mb-4 grid gap-x-5 gap-y-2 rounded-sm border-[1.5px] border-frame bg-card p-4 sm:grid-cols-2 lg:grid-cols-3"
      onSubmit={(e) => {
        e.preventDefault();
        void save();
      }}
    >
      <Field label={t`Name`} fault={fault("name") ?? fault("id")}>
        <input className={BOX} value={made.name} maxLength={80} onChange={(e) => put({ name: e.target.value })} />
      </Field>
      <Field label={t`Kind`} fault={fault("kind")}>
        <select className={BOX} value={made.kind} onChange={(e) => put({ kind: e.target.value, channels: [] })}>
          {vocabulary.instrument_kinds.map((k) => (
            <option key={k.key} value={k.key}>
              {k.name}
            </option>
          ))}
        </select>
      </Field>
      <Field label={t`Serial`} fault={fault("serial")}>
        <input className={BOX} value={made.serial} maxLength={60} onChange={(e) => put({ serial: e.target.value })} />
      </Field>
      <Field label={t`Calibrated on`} fault={fault("calibrated_on")}>
        <input
          type="date"
          className={BOX}
          value={made.calibrated_on ?? ""}
          onChange={(e) => put({ calibrated_on: e.target.value || null })}
        />
      </Field>
      <Field label={t`Interval, months (usually ${kind?.calibration_months ?? 12})`} fault={fault("calibration_months")}>
        <input
          inputMode="numeric"
          className={BOX}
          value={made.calibration_months ?? ""}
          onChange={(e) => put({ calibration_months: numberOf(e.target.value) })}
        />
      </Field>
      <Field
        label={t`Error, % of the reading (usually ${((kind?.error_fraction ?? 0) * 100).toPrecision(2)})`}
        fault={fault("error_fraction")}
      >
        <Percent value={made.error_fraction} put={(error_fraction) => put({ error_fraction })} />
      </Field>
      {made.kind === "ir_thermometer" ? (
        <Field label={t`Emissivity (shiny metal: low)`} fault={fault("emissivity")}>
          <input
            inputMode="decimal"
            className={BOX}
            defaultValue={made.emissivity ?? ""}
            onChange={(e) => put({ emissivity: numberOf(e.target.value) })}
          />
        </Field>
      ) : null}
      <Field label={t`Connected by`} fault={fault("link")}>
        <select className={BOX} value={made.link ?? "none"} onChange={(e) => put({ link: e.target.value as Sheet["link"] })}>
          {(vocabulary.instrument_schema as Partial<Schema> as Schema).properties.link["x-options"].map(({ value, reads }) => (
            <option key={value} value={value}>
              {reads}
            </option>
          ))}
        </select>
      </Field>
      {made.link === "none" ? null : (
        <>
          <Field label={made.link === "line_serial" ? t`Serial port` : t`Address, host:port`} fault={fault("address")}>
            <input className={BOX} value={made.address} maxLength={80} onChange={(e) => put({ address: e.target.value })} />
          </Field>
          <Channels
            channels={made.channels}
            reads={kind?.reads ?? []}
            modbus={made.link === "modbus_tcp"}
            put={(channels) => put({ channels })}
            faults={faults}
          />
        </>
      )}
      <div className="col-span-full flex gap-3 pt-1">
        <Button type="submit" look="act" disabled={made.name.trim() === ""}>{t`Save instrument`}</Button>
        <Button onClick={done}>{t`Cancel`}</Button>
      </div>
    </form>
  );
}

interface Schema {
  properties: { link: { "x-options": { value: string; reads: string }[] } };
}

function numberOf(text: string): number | null {
  const found = Number.parseFloat(text.replace(",", "."));
  return Number.isNaN(found) ? null : found;
}

function Percent({ value, put }: { value: number | null; put: (value: number | null) => void }) {
  return (
    <input
      inputMode="decimal"
      className={BOX}
      defaultValue={value === null ? "" : value * 100}
      onChange={(e) => put(numberOf(e.target.value) === null ? null : (numberOf(e.target.value) ?? 0) / 100)}
    />
  );
}

function Field({ label, fault, children }: { label: string; fault: string | undefined; children: React.ReactNode }) {
  return (
    <label className="block">
      <span className="text-small text-ink-2">{label}</span>
      {children}
      {fault ? (
        <span role="alert" className="block text-small text-stop">
          {fault}
        </span>
      ) : null}
    </label>
  );
}

interface ChannelsProps {
  channels: Channel[];
  /** The quantities its kind reads. */
  reads: string[];
  modbus: boolean;
  put: (channels: Channel[]) => void;
  faults: Fault[];
}

/** The values it gives: what, in which unit, from where to where. */
function Channels({ channels, reads, modbus, put, faults }: ChannelsProps) {
  const { kinds } = useSurroundings();
  const change = (n: number, what: Partial<Channel>) => put(channels.map((c, k) => (k === n ? { ...c, ...what } : c)));
  const add = () => {
    const quantity = reads[0] ?? "gas_pressure";
    put([
      ...channels,
      {
        id: `C${channels.length + 1}`,
        name: "",
        quantity,
        unit: kinds[quantity]?.metric ?? "",
        low: 0,
        high: 100,
        resolution: 0.1,
        register_at: modbus ? 0 : null,
        words: "f32",
        scale: 1,
      },
    ]);
  };
  const number = (n: number, name: "low" | "high" | "resolution" | "register_at", label: string) => (
    <input
      aria-label={`${label} ${n + 1}`}
      title={label}
      placeholder={label}
      inputMode="decimal"
      className={`${BOX} max-w-20`}
      defaultValue={channels[n]?.[name] ?? ""}
      onChange={(e) => change(n, { [name]: numberOf(e.target.value) })}
    />
  );
  return (
    <fieldset className="col-span-full">
      <legend className="text-small text-ink-2">
        <Trans>Values it sends: channel name, quantity, unit, range, smallest step{modbus ? t`, register` : ""}</Trans>
      </legend>
      {channels.map((c, n) => (
        <div key={n} className="flex flex-wrap gap-2 py-1">
          <input
            aria-label={t`Name ${n + 1}`}
            className={`${BOX} max-w-24`}
            value={c.id}
            maxLength={20}
            onChange={(e) => change(n, { id: e.target.value })}
          />
          <select
            aria-label={t`Quantity ${n + 1}`}
            className={`${BOX} max-w-44`}
            value={c.quantity}
            onChange={(e) => change(n, { quantity: e.target.value, unit: kinds[e.target.value]?.metric ?? "" })}
          >
            {reads.map((r) => (
              <option key={r} value={r}>
                {r.replaceAll("_", " ")}
              </option>
            ))}
          </select>
          <select
            aria-label={t`Unit ${n + 1}`}
            className={`${BOX} max-w-28`}
            value={c.unit}
            onChange={(e) => change(n, { unit: e.target.value })}
          >
            {kinds[c.quantity]?.units.map((u) => (
              <option key={u.symbol} value={u.symbol}>
                {u.symbol}
              </option>
            ))}
          </select>
          {number(n, "low", t`From`)}
          {number(n, "high", t`To`)}
          {number(n, "resolution", t`Step`)}
          {modbus ? number(n, "register_at", t`Register`) : null}
          <Button data-testid="remove" look="quiet" onClick={() => put(channels.filter((_, k) => k !== n))}>
            <Trans>
              Remove<span className="sr-only"> value {n + 1}</span>
            </Trans>
          </Button>
          {faults
            .filter((f) => f.path.startsWith(`channels[${n}]`))
            .map((f) => (
              <span key={f.path} role="alert" className="w-full text-small text-stop">
                {f.message}
              </span>
            ))}
        </div>
      ))}
      <Button onClick={add}>{t`Add a value`}</Button>
    </fieldset>
  );
}
