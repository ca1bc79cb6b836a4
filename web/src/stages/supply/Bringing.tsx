// Supply, the night ahead: how many cylinders to bring, of which size, and how the reserve comes on; any row can be chosen.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect, useRef, useState } from "react";
import { type Bring, type Holds, Problem } from "../../api/client";
import { useQuantities } from "../../app/context";
import { bringOf } from "../../engine/ask";
import { Stale } from "../../engine/engine";
import { useJob, useJobStore, useSupply } from "../../job/context";
import { textAt } from "../../job/document";
import { CaptionedTable } from "../../ui/CaptionedTable";
import { Button } from "../../ui/controls";
import { dayAndClock } from "../../ui/hour";

const bring = (r: Bring) => `${r.count + r.reserve_count} × ${r.name}`;

const wayWords: Record<string, (r: Bring) => string> = {
  all_on: () => t`all of them on`,
  automatic: (r) => t`${r.count} on, then ${r.reserve_count} by an automatic change-over valve`,
  by_hand: (r) => t`${r.count} on, then ${r.reserve_count} by a valve turned by hand`,
  swapped: (r) => t`${r.count} on, ${r.reserve_count} to swap in`,
};

const callWords: Record<string, (at: string) => string> = {
  reserve_takes_over: (at) => t`changes over by itself at ${at}`,
  turn_over: (at) => t`turn the valve at ${at}`,
  swap: (at) => t`swap at ${at}`,
  change: (at) => t`at its reserve at ${at}`,
  fails: (at) => t`the gas fails at ${at}`,
};

/** Each way with how long it lasts, what must be done when, and how cold it may get. */
export function Bringing() {
  const store = useJobStore();
  const { at, given } = useSupply();
  const { ways: rows, holds } = useBring(textAt(given, "id"));
  const q = useQuantities();
  if (at === null || rows.length === 0) return null;
  const take = (r: Bring) =>
    store.editAll([
      // What was planned for other cylinders goes with them.
      { path: `${at}.night.changes`, value: [] },
      { path: `${at}.storage.vessel`, value: r.vessel },
      { path: `${at}.storage.count`, value: r.count },
      { path: `${at}.night.reserve_count`, value: r.reserve_count },
      ...(r.reserve_count > 0 ? [{ path: `${at}.night.reserve_way`, value: r.way }] : []),
    ]);
  return (
    <>
      {holds ? <HowFar holds={holds} /> : null}
      <CaptionedTable
        caption={t`How many cylinders to bring for these hours`}
        heads={[
          { word: t`Bring` },
          { word: t`Lasts` },
          { word: t`OK down to`, right: true },
          { word: t`All of them full`, right: true },
          { word: t`Choose`, ears: true },
        ]}
      >
        {rows.map((r) => (
          <tr key={`${r.vessel} ${r.count} ${r.reserve_count} ${r.way}`} className="border-t border-hair align-top">
            <th scope="row" className="py-1.5 pr-2 font-medium">
              {bring(r)}
              <span className="block text-small font-normal text-muted">{wayWords[r.way]?.(r)}</span>
            </th>
            <td className="py-1.5 pr-2">
              <span className={r.fails_after_s === null ? "" : "font-semibold text-stop"}>
                {r.fails_after_s === null ? t`to the end` : q.show(r.fails_after_s, "duration")}
              </span>
              {r.calls.map((c) => (
                <span key={`${c.what} ${c.after_s}`} className="block text-small text-muted">
                  {callWords[c.what]?.(dayAndClock(c))}
                </span>
              ))}
              {r.steady ? null : <span className="block text-small text-muted">{t`not for days of cold without a break`}</span>}
            </td>
            <td className="whitespace-nowrap py-1.5 pl-2 text-right">
              {r.holds_to_c === null ? "—" : q.show(r.holds_to_c, "temperature")}
            </td>
            <td className="whitespace-nowrap py-1.5 pl-2 text-right">
              {q.show(r.mass_kg, "mass")}
              {r.cost === null ? null : (
                <span className="block text-small text-muted">
                  <Trans>{q.show(r.cost, "money")} of propane</Trans>
                </span>
              )}
            </td>
            <td className="pl-3 text-right">
              {r.chosen ? (
                <span className="block whitespace-nowrap py-1.5 text-small text-muted">{t`in the plan`}</span>
              ) : (
                <Button edits data-testid="bring" look="quiet" onClick={() => take(r)}>
                  <Trans>
                    Choose
                    <span className="sr-only">
                      {" "}
                      {bring(r)}, {wayWords[r.way]?.(r)}
                    </span>
                  </Trans>
                </Button>
              )}
            </td>
          </tr>
        ))}
      </CaptionedTable>
    </>
  );
}

/** How far the plan as it stands is carried: each limit by itself. */
function HowFar({ holds }: { holds: Holds }) {
  const q = useQuantities();
  const tiles = [
    {
      what: t`down to, in the coldest hour`,
      is: holds.coldest_c === null ? t`not at all` : q.show(holds.coldest_c, "temperature"),
    },
    { what: t`for, in this weather`, is: holds.until_s === null ? t`7 days or more` : q.show(holds.until_s, "duration") },
    { what: t`cylinders in use, at least`, is: holds.count === null ? t`no number` : String(holds.count) },
    { what: t`times this load, at most`, is: holds.load === null ? t`4 or more` : holds.load.toFixed(2) },
  ];
  return (
    <section data-testid="how-far" aria-label={t`How far these cylinders last`} className="mb-3">
      <h3 className="pb-1 text-small text-muted">{t`How far these cylinders last, each limit by itself`}</h3>
      <dl className="grid grid-cols-2 rounded-sm border-[1.5px] border-frame bg-card sm:grid-cols-4">
        {tiles.map((tile) => (
          <div key={tile.what} className="flex flex-col-reverse justify-end border-hair px-3 py-2 not-first:border-l">
            <dt className="text-small text-muted">{tile.what}</dt>
            <dd className="text-xl font-bold">{tile.is}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

interface Brought {
  ways: Bring[];
  holds: Holds | null;
}
const NONE: Brought = { ways: [], holds: null };
/** So long nobody types before it is asked again. */
const REST_MS = 400;

/** The ways to bring it, asked anew when the document changes; those of the last document stay until then. */
function useBring(supply: string): Brought {
  const { document } = useJob();
  const [found, setFound] = useState<Brought>(NONE);
  const first = useRef(true);
  useEffect(() => {
    let old = false;
    const asking = () =>
      void bringOf(document, supply).then(
        (made) => old || setFound(made),
        (problem: unknown) => {
          // What cannot be told now is told at the next change.
          if (!(problem instanceof Problem || problem instanceof Stale)) throw problem;
        },
      );
    const timer = setTimeout(asking, first.current ? 0 : REST_MS);
    first.current = false;
    return () => {
      old = true;
      clearTimeout(timer);
    };
  }, [document, supply]);
  return found;
}
