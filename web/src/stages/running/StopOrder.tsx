// In which order the whole job is stopped, from what feeds what; and what fails first if one thing ends now.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Entry, Forecast, Stopping } from "../../api/client";
import { useQuantities } from "../../app/context";
import { ask } from "../../engine/ask";
import type { Document } from "../../job/document";
import { useRecords } from "../../job/context";
import { stillOpen } from "../commissioning/open";
import { useOfTheLog } from "./useAsked";
import { nowMs } from "../../outbox/time";

const asking = (document: Document, entries: Entry[], weather: Forecast | null) =>
  ask("stop_order", { document, entries, weather, now_s: Math.floor(nowMs() / 1000) }, t`stop order`);

export const useStopping = (): Stopping | null => useOfTheLog(asking);

/** What the runs that are going on say is open, lit or on at each machine now. */
function OpenAtTheUnits() {
  const { runs } = useRecords();
  const open = runs.filter((r) => r.signed === null && stillOpen(r).length > 0);
  if (open.length === 0) return null;
  return (
    <ul
      data-testid="open-at-the-units"
      aria-label={t`Open now`}
      className="border-b border-l-4 border-rule border-l-caution bg-card px-3 py-1.5"
    >
      {open.map((r) => (
        <li key={r.id}>
          <Trans>
            <b>Open now at {r.procedure.unit_name}, by its run:</b>{" "}
            {stillOpen(r)
              .map((o) => `${o.name} ${o.stands}`)
              .join(" · ")}
          </Trans>
        </li>
      ))}
    </ul>
  );
}

/** Both, side by side where there is room. */
export function StopOrder() {
  const found = useStopping();
  const q = useQuantities();
  if (!found || found.order.length === 0) return null;
  const timed = found.losses.filter((l) => l.kind !== "line");
  const lines = found.losses.filter((l) => l.kind === "line");
  return (
    <div className="grid gap-x-6 pt-2 md:grid-cols-2">
      <section data-testid="stop-order" aria-label={t`Stop order`}>
        <h3 className="border-b-[1.5px] border-frame font-bold">{t`Stop order of the whole job`}</h3>
        <OpenAtTheUnits />
        <ol className="list-decimal pl-6">
          {found.order.map((a, n) => (
            <li key={`${a.of}${n}`} className="border-b border-hair py-1.5 marker:font-bold">
              {q.say(a.say, a.values)}
              <span className="block text-small text-muted">{q.say(a.because, a.values)}</span>
            </li>
          ))}
        </ol>
      </section>
      <section aria-label={t`What fails first`}>
        <h3 className="border-b-[1.5px] border-frame font-bold">{t`If one supply ends now`}</h3>
        <ul>
          {timed.map((l) => (
            <li key={l.of} className="border-b border-hair py-1.5">
              <span className="flex gap-2">
                <b className="flex-1">{l.name}</b>
                <span className={`text-right ${l.left_s !== null && l.left_s < 4 * 3600 ? "font-semibold text-ember-ink" : ""}`}>
                  {l.left_s === null ? "—" : t`in ${q.show(l.left_s, "duration")}`}
                </span>
              </span>
              <span className="block text-small">
                <Trans>
                  That also stops {l.fails.join(", ")}. {l.say}
                </Trans>
              </span>
              <span className="block text-small text-muted">{l.known_by}</span>
            </li>
          ))}
          {lines.length > 0 ? (
            <li>
              <details className="py-1.5">
                <summary className="min-h-8 cursor-pointer">
                  <Trans>{lines.length} lines and parts of the path</Trans>
                </summary>
                <ul>
                  {lines.map((l) => (
                    <li key={l.of} className="border-b border-hair py-1 text-small">
                      <b>{l.name}</b>: {l.fails.join(", ")}
                    </li>
                  ))}
                </ul>
              </details>
            </li>
          ) : null}
        </ul>
      </section>
    </div>
  );
}
