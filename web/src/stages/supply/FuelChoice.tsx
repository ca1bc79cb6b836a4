// Supply, fuel choice: what each fuel costs, weighs and stands, for the machines chosen.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Row } from "../../api/client";
import { useDeferredValue } from "react";
import { useQuantities, useSurroundings } from "../../app/context";
import { useStage } from "../../job/context";
import { namesAt } from "../../job/schema";
import { StagePart } from "../../ui/answers";
import { CaptionedTable } from "../../ui/CaptionedTable";
import { JobField } from "../../ui/JobField";

type FuelRow = Row<"fuels">;

type CostRow = Row<"costs">;

/** Prices at the left, fuels side by side at the right. */
export function FuelChoice() {
  const stage = useStage("supply");
  const { vocabulary } = useSurroundings();
  const late = useDeferredValue(stage);
  return (
    <StagePart
      given={
        <>
          <p className="pb-1 text-small text-muted">{t`Price of each fuel here, in your own money. Leave out what you cannot get.`}</p>
          {namesAt(vocabulary.job_schema, "prices").map((f) => (
            <JobField key={f} path={`prices.${f}`} />
          ))}
        </>
      }
      stage={stage}
      part="choice"
      choices={
        <>
          <Costs rows={late?.tables["costs"] ?? []} />
          <Fuels rows={late?.tables["fuels"] ?? []} />
        </>
      }
    />
  );
}

/** What each machine burns and costs over the hours planned. */
function Costs({ rows }: { rows: CostRow[] }) {
  const q = useQuantities();
  if (rows.length === 0) return null;
  return (
    <CaptionedTable
      caption={t`Fuel of every machine, over the planned hours`}
      heads={[
        { word: t`Machine` },
        { word: t`Running hours`, right: true },
        { word: t`Mean fuel rate`, right: true },
        { word: t`Fuel`, right: true },
        { word: t`Cost`, right: true },
      ]}
    >
      {rows.map((r) => (
        <tr key={r.machine} className="border-t border-hair align-top">
          <th scope="row" className="py-1 font-medium">
            {r.name}
            <span className="block text-small font-normal text-muted">{r.fuel_name}</span>
          </th>
          <td className="whitespace-nowrap py-1 pl-2 text-right">{q.show(r.hours_s, "duration")}</td>
          <td className="whitespace-nowrap py-1 pl-2 text-right">{q.show(r.mean_w, "heat_flow")}</td>
          <td className="whitespace-nowrap py-1 pl-2 text-right">{q.show(r.amount, r.amount_kind)}</td>
          <td className="py-1 pl-2 text-right">{r.cost === null ? t`no price` : q.show(r.cost, "money")}</td>
        </tr>
      ))}
    </CaptionedTable>
  );
}

function Fuels({ rows }: { rows: FuelRow[] }) {
  const q = useQuantities();
  if (rows.length === 0) return null;
  return (
    <ul aria-label={t`Fuels side by side`} className="mb-4 border-t-[1.5px] border-frame">
      {rows.map((r) => (
        <li key={r.fuel} className={`border-b border-hair py-1.5 ${r.every ? "" : "text-muted"}`}>
          <div className="flex flex-wrap items-baseline justify-between gap-x-4">
            <span className="font-semibold">{r.name}</span>
            <span className="flex flex-wrap gap-x-4">
              {r.cost_per_kwh === null ? null : (
                <span>
                  <Trans>{q.show(r.cost_per_kwh, "money")} a useful kWh</Trans>
                </span>
              )}
              {r.hours_a_fill_s === null ? null : (
                <span>
                  <Trans>
                    {q.show(r.hours_a_fill_s, "duration")} a {r.fill}
                  </Trans>
                </span>
              )}
              {r.fills === null || r.weight_kg === null ? null : (
                <span>
                  <Trans>
                    {r.fills} refills, {q.show(r.weight_kg, "mass")}
                  </Trans>
                </span>
              )}
            </span>
          </div>
          <p className="text-small text-muted">
            <Trans>
              {r.every ? t`Every chosen machine may burn it` : t`Not every chosen machine may burn it`}: {r.machines}. In the cold:{" "}
              {r.cold}
              {r.cold_fits ? "" : t`, too cold for it here`}. In storage: {r.keeps}.
              {r.output_lost ? t` Output: up to ${q.show(r.output_lost, "fraction")} less than on the best fuel.` : ""}
              {r.least_vessel_kg ? t` Cylinders of at least ${q.show(r.least_vessel_kg, "mass")}.` : ""}
            </Trans>
          </p>
        </li>
      ))}
    </ul>
  );
}
