// The forecast of the site: which one the job goes by, a newer one that was fetched, and one pasted from a table.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Select } from "@headlessui/react";
import { useCallback, useState } from "react";
import type { Forecast as Told } from "../api/client";
import { moment, useQuantities, useSurroundings } from "../app/context";
import { ask } from "../engine/ask";
import { useDraft } from "../job/context";
import { nowMs } from "../outbox/time";
import { Button } from "../ui/controls";
import { PastedRows, useRows } from "../ui/TableImport";
import { offsetsAround } from "./clockOfHere";
import { ageS, coldestOf, type ForecastHere, useForecast } from "./useForecast";

const AGES_H = [0, 3, 6, 12, 24, 48];
const HOUR_MS = 3_600_000;

/** A forecast in one line: when it was issued, how old it is, its coldest hour to come. */
export function ForecastLine({ forecast }: { forecast: Told }) {
  const q = useQuantities();
  const coldest = coldestOf(forecast);
  const whole = (value: number, kind: string) => q.show(value, kind).replaceAll(" ", "\u00a0");
  const age = whole(Math.round(ageS(forecast) / 60) * 60, "duration");
  return (
    <>
      <Trans>
        Forecast of {moment(forecast.issued_at)}, {age} old.
      </Trans>{" "}
      {coldest ? (
        <Trans>
          Coldest {whole(coldest.outside_c, "temperature")} on {moment(coldest.at, "short")}.
        </Trans>
      ) : (
        <strong className="text-stop">{t`All of its hours are over.`}</strong>
      )}{" "}
      <span className="text-muted">{forecast.source}</span>
    </>
  );
}

/** What the log is held against: the newest forecast there is, and the way to a newer one. */
export function ForecastOfTheLog() {
  const here = useForecast();
  return (
    <section data-testid="forecast" aria-label={t`Forecast`}>
      <h3 className="mt-4 border-t-[1.5px] border-frame pt-2 font-bold">{t`Forecast`}</h3>
      {here.newest ? (
        <p className="py-1">
          <ForecastLine forecast={here.newest} />
        </p>
      ) : (
        <p className="py-1 text-small text-muted">{t`None yet. Change-over times are worked out from the fuel used so far.`}</p>
      )}
      <GetForecast here={here} />
    </section>
  );
}

function GetForecast({ here: { isPlaced, isFetching, trouble, get } }: { here: ForecastHere }) {
  return (
    <>
      <div className="pt-2">
        <Button data-testid="forecast-get" disabled={!isPlaced || isFetching} onClick={() => void get()}>
          {isFetching ? t`Getting the forecast …` : t`Get the newest forecast`}
        </Button>
      </div>
      {isPlaced ? null : (
        <p className="py-1 text-small text-muted">{t`First enter the latitude and longitude of the site under Need.`}</p>
      )}
      {trouble ? (
        <p role="alert" className="py-1 font-medium text-stop">
          {trouble}
        </p>
      ) : null}
    </>
  );
}

/** The forecast of the job, where it comes from, and another way to bring one in. */
export function Forecast() {
  const here = useForecast();
  const { used, newer, use, remove } = here;
  return (
    <section data-testid="forecast" aria-label={t`Forecast`}>
      <h3 className="mt-4 border-t-[1.5px] border-frame pt-2 font-bold">{t`Forecast`}</h3>
      {used ? (
        <div className="flex items-start gap-2 py-1">
          <p className="flex-1">
            <ForecastLine forecast={used} />
          </p>
          <Button look="quiet" data-testid="forecast-remove" onClick={remove}>{t`Remove`}</Button>
        </div>
      ) : (
        <p className="py-1 text-small text-muted">{t`None in use. The plan uses the lowest outside temperature of the site.`}</p>
      )}
      {newer ? (
        <div data-testid="forecast-newer" className="border-l-4 border-note py-1 pl-2">
          <p>
            <strong>{used ? t`Newer forecast available.` : t`Forecast available.`}</strong> <ForecastLine forecast={newer} />
          </p>
          <Button look="act" data-testid="forecast-use" onClick={() => use(newer)}>{t`Use this forecast`}</Button>
        </div>
      ) : null}
      <GetForecast here={here} />
      <PastedForecast use={use} />
    </section>
  );
}

function PastedForecast({ use }: { use: (forecast: Told) => void }) {
  const [text, setText] = useDraft(t`pasted forecast`);
  const [ageH, setAge] = useState(0);
  const [dayFirst, setDayFirst] = useState("");
  const { person } = useSurroundings();
  const asking = useCallback(
    (rows: string) => {
      const issuedMs = nowMs() - ageH * HOUR_MS;
      const question = {
        text: rows,
        offsets: offsetsAround(issuedMs),
        issued_s: Math.floor(issuedMs / 1000),
        source: t`pasted by ${person.name}`,
        imperial: person.units === "us",
        day_first: dayFirst === "" ? null : dayFirst === "day",
      };
      return ask("forecast", question, t`pasted forecast`);
    },
    [ageH, dayFirst, person.name, person.units],
  );
  const { found, problem } = useRows(text, asking);
  const forecast = found?.forecast ?? null;
  return (
    <PastedRows
      text={text}
      setText={setText}
      several={t`hours`}
      columns={t`Columns: date and time, outside temperature. Times without a zone are read by the clock of this device.`}
      example={"Time\tOutside °C\n2026-12-02 18:00\t-2\n2026-12-02 19:00\t-3"}
      problem={problem}
      faults={found?.faults ?? null}
    >
      {(found?.notes ?? []).map((note) => (
        <p key={note} className="text-small text-muted">
          {note}
        </p>
      ))}
      <div className="flex flex-wrap items-end gap-3 pt-2">
        <label className="text-small">
          <span className="block text-muted">{t`Issued`}</span>
          <Select
            data-testid="forecast-age"
            value={String(ageH)}
            onChange={(e) => setAge(Number(e.target.value))}
            className="min-h-9 rounded-sm border-[1.5px] border-edge bg-card px-2"
          >
            {AGES_H.map((h) => (
              <option key={h} value={h}>
                {h === 0 ? t`just now` : h < 24 ? t`${h} hours ago` : h === 24 ? t`a day ago` : t`${h / 24} days ago`}
              </option>
            ))}
          </Select>
        </label>
        <label className="text-small">
          <span className="block text-muted">{t`Dates`}</span>
          <Select
            value={dayFirst}
            onChange={(e) => setDayFirst(e.target.value)}
            className="min-h-9 rounded-sm border-[1.5px] border-edge bg-card px-2"
          >
            <option value="">{t`detect the order`}</option>
            <option value="day">{t`day first`}</option>
            <option value="month">{t`month first`}</option>
          </Select>
        </label>
        {forecast ? (
          <Button
            data-testid="forecast-paste"
            look="act"
            onClick={() => {
              use(forecast);
              setText("");
            }}
          >
            <Trans>Use these {forecast.hours.length} hours</Trans>
          </Button>
        ) : null}
      </div>
    </PastedRows>
  );
}
