const DAY_S = 86_400;
import { t } from "@lingui/core/macro";
import { nowMs } from "../../outbox/time";
/** How far off a moment is, in words: "overdue by 3 days", "in 5 h". */
export function farOff(at_s: number, now_s = nowMs() / 1000): string {
  const apart = Math.abs(at_s - now_s);
  const words =
    apart >= 2 * DAY_S
      ? t`${Math.round(apart / DAY_S)} days`
      : apart >= 3600
        ? `${Math.round(apart / 3600)} h`
        : t`${Math.max(1, Math.round(apart / 60))} min`;
  return at_s <= now_s ? t`overdue by ${words}` : t`in ${words}`;
}
