// Hours of the day, and of a window that may be longer than a day.
import { t } from "@lingui/core/macro";

import { DATED_S, hourOf } from "../quantities/quantity";

const DAY_S = 86_400;
const MINUTE_S = 60;

/** An hour of the day, to the minute. */
export const clock = (s: number) => {
  const minutes = Math.round(s / MINUTE_S) % (DAY_S / MINUTE_S);
  return `${String(Math.floor(minutes / 60)).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;
};

/** The hour, with its weekday where the day is known, else with which day of the window it is where that is not the first. */
export function dayAndClock({ after_s, clock_s }: { after_s: number; clock_s: number }): string {
  if (clock_s > DATED_S) return hourOf(clock_s);
  const begins = (((clock_s - after_s) % DAY_S) + DAY_S) % DAY_S;
  // To the minute, as the hour is shown: a second before midnight is the next day.
  const day = Math.floor((Math.round((begins + after_s) / MINUTE_S) * MINUTE_S) / DAY_S) + 1;
  return day > 1 ? t`${clock(clock_s)} on day ${day}` : clock(clock_s);
}

/** The same, so long after the start of a window. */
export const hourAfter = (
  { begins_on: on, begins_s: begins }: { begins_on: string | null; begins_s: number },
  after: number,
): string => dayAndClock({ after_s: after, clock_s: on ? Date.parse(on) / 1000 + begins + after : (begins + after) % DAY_S });
