// An hour of a window that may be longer than a day.
import { t } from "@lingui/core/macro";
import { clock } from "../../ui/chart";

const DAY_S = 86_400;

/** The time of day, and which day of the window where it is not the first. */
export function dayAndClock({ after_s, clock_s }: { after_s: number; clock_s: number }): string {
  const begins = (((clock_s - after_s) % DAY_S) + DAY_S) % DAY_S;
  const day = Math.floor((begins + after_s) / DAY_S) + 1;
  return day > 1 ? t`${clock(clock_s)} on day ${day}` : clock(clock_s);
}
