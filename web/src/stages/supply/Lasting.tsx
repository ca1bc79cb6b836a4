// How long a supply lasts: on low, by thermostat and on high, side by side.
import { t } from "@lingui/core/macro";
import type { Row } from "../../api/client";
import { useQuantities } from "../../app/context";

const HOUR_S = 3600;

/** One column for each setting: the hours first, the fuel an hour under it. */
export function Lasting({ rows, ahead }: { rows: Row<"lasting">[]; ahead: Row<"ahead">[] }) {
  const q = useQuantities();
  if (rows.length === 0) return null;
  return (
    <section data-testid="lasting" aria-label={t`How long it lasts`} className="mb-3">
      <h3 className="pb-1 text-small text-muted">{t`How long it lasts`}</h3>
      <dl className="grid grid-flow-col auto-cols-fr rounded-sm border-[1.5px] border-frame bg-card">
        {rows.map((r) => {
          const { number, unit } = r.lasts_s === null ? { number: t`no end`, unit: "" } : q.split(r.lasts_s, "duration");
          return (
            <div key={r.setting} className="flex flex-col-reverse justify-end border-l border-hair px-3 py-2 first:border-l-0">
              <dt className="text-small text-muted">{r.words}</dt>
              <dd>
                <b className="text-xl">{number}</b> <span className="text-small">{unit}</span>
                <span className="block text-tiny text-muted">
                  {q.show(r.flow, r.flow_kind)}
                  {r.cost_per_s === null ? "" : t`, ${q.show(r.cost_per_s * HOUR_S, "money")} an hour`}
                </span>
              </dd>
            </div>
          );
        })}
        {ahead.map((a) => (
          <div key="ahead" className="flex flex-col-reverse justify-end border-l border-hair px-3 py-2">
            <dt className="text-small text-muted">{t`needed for the ${q.show(a.lasts_s, "duration")} ahead`}</dt>
            <dd>
              <b className="text-xl">{q.split(a.amount, a.amount_kind).number}</b>{" "}
              <span className="text-small">{q.split(a.amount, a.amount_kind).unit}</span>
              {a.cost === null ? null : <span className="block text-tiny text-muted">{q.show(a.cost, "money")}</span>}
            </dd>
          </div>
        ))}
      </dl>
    </section>
  );
}
