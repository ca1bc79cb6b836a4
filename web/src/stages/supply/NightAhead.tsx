// Supply, the night ahead: what the vessels make of the load, hour by hour, until it fails if it does.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useDeferredValue } from "react";
import { useQuantities } from "../../app/context";
import { type Entries, useEntries, useSupply, useSupplyStage } from "../../job/context";
import { textAt } from "../../job/document";
import { StagePart } from "../../ui/answers";
import { Button } from "../../ui/controls";
import { JobField } from "../../ui/JobField";
import { TableImport } from "../../ui/TableImport";
import { Forecast } from "../../weather/Forecast";
import { Bringing } from "./Bringing";
import { Lasting } from "./Lasting";
import { NightCharts, Schedule } from "./NightCharts";

const MOST_HOURS = 200;
const OF_A_TANK = ["begins_on", "begins_s", "lasts_s", "evening_c", "lowest_at_s", "fill_fraction", "inside_at_start"];
const CORRECTIONS = ["loss_factor", "duty_factor", "input_factor", "outside_k"];
const FIELDS = [
  "begins_on",
  "begins_s",
  "lasts_s",
  "evening_c",
  "lowest_at_s",
  "humidity_fraction",
  "fill_fraction",
  "inside_at_start",
  "reserve_count",
  "reserve_way",
];

interface HoursProps {
  /** Where the list stands. */
  at: string;
  entries: Entries;
  fields: string[];
  /** What the n-th is called, counted from one. */
  one: (n: number) => string;
}

/** Entries of the night as rows of fields, each of which can be removed. */
function Hours({ at, entries, fields, one }: HoursProps) {
  return (
    <ul>
      {entries.all.map((entry, n) => {
        const of = one(n + 1);
        return (
          <li key={textAt(entry, "id")} className="flex items-end gap-2 border-b border-hair py-1">
            {fields.map((field) => (
              <span key={field} className="min-w-0 grow basis-0">
                <JobField layout="stacked" of={of} path={`${at}[${n}].${field}`} />
              </span>
            ))}
            <Button data-testid="remove" look="quiet" onClick={() => entries.remove(entry)}>
              <Trans>
                Remove<span className="sr-only"> {of}</span>
              </Trans>
            </Button>
          </li>
        );
      })}
    </ul>
  );
}

/** When somebody comes to change the cylinders; without an hour here it is when they are down to their reserve. */
function PlannedChanges({ at }: { at: string }) {
  const changes = useEntries(`${at}.changes`, "change");
  const q = useQuantities();
  const next = Math.max(0, ...changes.all.map((c) => Number(c["after_s"] ?? 0))) + 4 * 3600;
  return (
    <>
      <h3 className="mt-4 border-t-[1.5px] border-frame pt-2 font-bold">{t`Planned change-overs`}</h3>
      <p className="text-small text-muted">{t`Left blank, the cylinders are changed when they are down to their reserve.`}</p>
      <Hours at={`${at}.changes`} entries={changes} fields={["after_s"]} one={(n) => t`Change-over ${n}`} />
      <div className="pt-2">
        <Button data-testid="add-change" onClick={() => changes.add({ after_s: next })}>
          <Trans>Plan a change-over after {q.show(next, "duration")}</Trans>
        </Button>
      </div>
    </>
  );
}

/** The night the vessels must carry, and how it goes. */
export function NightAhead() {
  const stage = useSupplyStage();
  const supply = useSupply();
  const at = `${supply.at ?? "supplies[0]"}.night`;
  const fromVessels = supply.fuel === "propane";
  const fromMeter = supply.fuel === "natural_gas" || supply.fuel === "butane_mix";
  const late = useDeferredValue(stage);
  const hours = useEntries(`${at}.hours`, "hour");
  const q = useQuantities();
  const next = Math.max(-1, ...hours.all.map((h) => Number(h["after_s"] ?? 0) / 3600)) + 1;
  return (
    <StagePart
      given={
        <>
          {(fromVessels ? FIELDS : fromMeter ? OF_A_TANK.filter((f) => f !== "fill_fraction") : OF_A_TANK).map((f) => (
            <JobField key={f} path={`${at}.${f}`} />
          ))}
          {fromVessels ? <PlannedChanges at={at} /> : null}
          <Forecast />
          <h3 className="mt-4 border-t-[1.5px] border-frame pt-2 font-bold">{t`Corrections from the log`}</h3>
          <p className="text-small text-muted">{t`Running works them out from the readings, and its findings enter them here.`}</p>
          {CORRECTIONS.map((f) => (
            <JobField key={f} path={`${supply.at ?? "supplies[0]"}.corrections.${f}`} />
          ))}
          <h3 className="mt-4 border-t-[1.5px] border-frame pt-2 font-bold">{t`Season ahead`}</h3>
          <JobField path={`${supply.at ?? "supplies[0]"}.season.lasts_s`} />
          <JobField path={`${supply.at ?? "supplies[0]"}.season.mean_c`} />
          <h3 className="mt-4 border-t-[1.5px] border-frame pt-2 font-bold">{t`Temperatures of the night`}</h3>
          <p className="text-small text-muted">{t`Left blank, the outside temperature falls in a curve from the start to the coldest hour. Two or more temperatures entered here come before the curve and the forecast.`}</p>
          <Hours at={`${at}.hours`} entries={hours} fields={["after_s", "outside_c"]} one={(n) => t`Temperature ${n}`} />
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
          <Lasting rows={late?.tables["lasting"] ?? []} ahead={late?.tables["ahead"] ?? []} />
          <NightCharts run={late?.tables["night"]?.[0] ?? null} inlet={late?.tables["inlet_ahead"]?.[0] ?? null} at={at} />
          <Schedule due={late?.tables["schedule"] ?? []} />
          {fromVessels ? <Bringing /> : null}
        </>
      }
    />
  );
}
