// The forecast of the open job: the one it is planned by, the newest that was fetched, and how to get another.
import { t } from "@lingui/core/macro";
import { useState } from "react";
import { answer, api, type Forecast, Problem } from "../api/client";
import { useSurroundings } from "../app/context";
import { useJob, useJobStore, useRecords } from "../job/context";
import { at, listAt } from "../job/document";
import { nowMs } from "../outbox/time";
import { byTheClockHere, nextDay } from "./clockOfHere";

const EVENING_S = 64_800;
const issuedMs = (forecast: Forecast | null) => (forecast ? Date.parse(forecast.issued_at) : -Infinity);

export interface ForecastHere {
  /** The one in the plan, null for none. */
  used: Forecast | null;
  /** A newer one that was fetched, null where there is none. */
  newer: Forecast | null;
  /** The newest of both: what the log is held against. */
  newest: Forecast | null;
  /** Whether the site has a latitude and a longitude. */
  isPlaced: boolean;
  isFetching: boolean;
  /** Why none came. */
  trouble: string;
  get: () => Promise<void>;
  /** Use a forecast in the plan. Hours ahead without a date, or with one that is over, begin at their next start. */
  use: (forecast: Forecast) => void;
  remove: () => void;
}

/** The forecasts of the open job. */
export function useForecast(): ForecastHere {
  const store = useJobStore();
  const { device } = useSurroundings();
  const { document } = useJob();
  const { weather } = useRecords();
  const [isFetching, setFetching] = useState(false);
  const [trouble, setTrouble] = useState("");
  const given = at(document, "weather") as Forecast | null | undefined;
  const used = given?.issued_at && given.hours.length > 1 ? given : null;
  const newer = issuedMs(weather) > issuedMs(used) ? weather : null;

  const get = async () => {
    setFetching(true);
    setTrouble("");
    try {
      // The server asks for the place that it knows.
      await store.flush();
      const zone = Intl.DateTimeFormat().resolvedOptions().timeZone || "UTC";
      const found = await answer(
        api.POST("/api/jobs/{job_id}/weather", { params: { path: { job_id: store.id } }, body: { zone } }),
      );
      await device.keepWeather(store.id, found.forecast);
    } catch (problem) {
      if (!(problem instanceof Problem)) throw problem;
      setTrouble(problem.status === 0 ? t`No signal. The forecast that is here stays.` : `${problem.message}. ${problem.detail}`);
    } finally {
      setFetching(false);
    }
  };

  const use = (forecast: Forecast) => {
    const dates = listAt(document, "supplies").flatMap((supply, n) => {
      const night = (at(supply, "night") ?? {}) as Record<string, unknown>;
      if (typeof night["lasts_s"] !== "number") return [];
      const next = nextDay(nowMs(), typeof night["begins_s"] === "number" ? night["begins_s"] : EVENING_S);
      const day = night["begins_on"];
      return typeof day === "string" && day >= next ? [] : [{ path: `supplies[${n}].night.begins_on`, value: next }];
    });
    // The hours ahead begin by the clock of the people who work here.
    const hours = forecast.hours.map((h) => ({ ...h, at: byTheClockHere(h.at) }));
    const weather = { issued_at: byTheClockHere(forecast.issued_at), source: forecast.source, hours };
    store.editAll([{ path: "weather", value: weather }, ...dates]);
  };

  return {
    used,
    newer,
    newest: newer ?? used,
    isPlaced: ["site.latitude_deg", "site.longitude_deg"].every((path) => typeof at(document, path) === "number"),
    isFetching,
    trouble,
    get,
    use,
    remove: () => store.edit("weather", null),
  };
}

/** The coldest hour of a forecast that is still to come, null where all of it is over. */
export function coldestOf(forecast: Forecast): { at: string; outside_c: number } | null {
  const from = Math.max(Date.parse(forecast.issued_at), nowMs() - 3_600_000);
  let found: { at: string; outside_c: number } | null = null;
  for (const { at: then, outside_c } of forecast.hours)
    if (outside_c !== null && Date.parse(then) >= from && (!found || outside_c < found.outside_c)) found = { at: then, outside_c };
  return found;
}

export const ageS = (forecast: Forecast) => Math.max(0, nowMs() - Date.parse(forecast.issued_at)) / 1000;
