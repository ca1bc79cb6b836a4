// Supply, the night ahead: what the vessels make of the load, hour by hour, until it fails if it does.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useDeferredValue } from "react";
import { useQuantities } from "../../app/context";
import { useEntries, useSupply, useSupplyStage } from "../../job/context";
import { textAt } from "../../job/document";
import { StagePart } from "../../ui/answers";
import { Button } from "../../ui/controls";
import { JobField } from "../../ui/JobField";
import { TableImport } from "../../ui/TableImport";
import { Bringing } from "./Bringing";
import { NightCharts, Schedule } from "./NightCharts";

const MOST_HOURS = 200;
const OF_A_TANK = ["begins_s", "lasts_s", "evening_c", "lowest_at_s", "fill_fraction"];
const FIELDS = [
  "begins_s",
  "lasts_s",
  "evening_c",
  "lowest_at_s",
  "humidity_fraction",
  "fill_fraction",
  "reserve_count",
  "reserve_way",
];

/** The night the vessels must carry, and how it goes. */
export function NightAhead() {
  const stage = useSupplyStage();
  const supply = useSupply();
  const at = `${supply.at ?? "supplies[0]"}.night`;
  const fromVessels = supply.fuel === "propane";
  const late = useDeferredValue(stage);
  const hours = useEntries(`${at}.hours`, "hour");
  const q = useQuantities();
  const next = Math.max(-1, ...hours.all.map((h) => Number(h["after_s"] ?? 0) / 3600)) + 1;
  return (
    <StagePart
      given={
        <>
          {(fromVessels ? FIELDS : OF_A_TANK).map((f) => (
            <JobField key={f} path={`${at}.${f}`} />
          ))}
          <h3 className="mt-4 border-t-[1.5px] border-frame pt-2 font-bold">{t`Temperatures of the night`}</h3>
          <p className="text-small text-muted">{t`Left blank, the outside temperature falls in a curve from the start to the coldest hour. Two or more temperatures entered here replace the curve.`}</p>
          <ul>
            {hours.all.map((hour, n) => {
              const of = t`Temperature ${n + 1}`;
              return (
                <li key={textAt(hour, "id")} className="grid grid-cols-[1fr_1fr_auto] items-end gap-2 border-b border-hair py-1">
                  <JobField layout="stacked" of={of} path={`${at}.hours[${n}].after_s`} />
                  <JobField layout="stacked" of={of} path={`${at}.hours[${n}].outside_c`} />
                  <Button data-testid="remove" look="quiet" onClick={() => hours.remove(hour)}>
                    <Trans>
                      Remove<span className="sr-only"> {of}</span>
                    </Trans>
                  </Button>
                </li>
              );
            })}
          </ul>
          <div className="pt-2">
            <Button data-testid="add-hour" onClick={() => hours.add({ after_s: next * 3600 })}>
              <Trans>Add a temperature after {q.show(next * 3600, "duration")}</Trans>
            </Button>
          </div>
          <TableImport
            list="hours"
            add={(entries) => hours.add(...entries)}
            room={MOST_HOURS - hours.all.length}
            most={MOST_HOURS}
            one="temperature"
            several="temperatures"
            columns={t`Columns: hours from the start, outside temperature. You can type units after the numbers: 30 min, 14F.`}
            example={"Hour\tOutside\n0\t2\n6\t-9"}
          />
        </>
      }
      stage={stage}
      part="night"
      choices={
        <>
          {fromVessels ? <Bringing /> : null}
          <Schedule due={late?.tables["schedule"] ?? []} />
          <NightCharts run={late?.tables["night"]?.[0] ?? null} />
        </>
      }
    />
  );
}
