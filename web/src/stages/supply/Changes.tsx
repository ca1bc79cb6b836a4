// Over the charts of the hours ahead: each change-over and the failure as a mark on the same axis. A change by hand can be moved.
import { t } from "@lingui/core/macro";
import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import type { Row } from "../../api/client";
import { useQuantities } from "../../app/context";
import { useJob, useJobStore } from "../../job/context";
import { type Document, at as valueAt, listAt, textAt, withIds } from "../../job/document";
import { Button } from "../../ui/controls";
import { hourAfter } from "../../ui/hour";

export type NightRun = Row<"night">;

/** Where the plot of a chart lies in its box (px). */
export interface Plot {
  left: number;
  width: number;
}

const STEP_S = 900;
// With more marks than these only the first has its word; the table below has all of them.
const MOST_WORDS = 3;
const BY_SOMEBODY = ["by_hand", "swapped"];

interface ChangesProps {
  run: NightRun;
  /** Where the night stands in the document. */
  at: string;
  plot: Plot | null;
}

/** The marks with their words; those that somebody makes are sliders, moved by finger, mouse or arrow keys. */
export function Changes({ run, at, plot }: ChangesProps) {
  const store = useJobStore();
  const { document } = useJob();
  const q = useQuantities();
  const strip = useRef<HTMLDivElement>(null);
  const [held, setHeld] = useState<{ n: number; after: number } | null>(null);
  const planned = listAt(document, `${at}.changes`);
  const reserve = Number(valueAt(document, `${at}.reserve_count`) ?? 0);
  const movable = reserve > 0 && BY_SOMEBODY.includes(textAt(document, `${at}.reserve_way`)) && store.role !== "guest";
  const lasts = run.outside_c.length * run.step_s;
  const whole = Math.max(lasts, run.failed_s ?? 0);
  if (plot === null) return null;
  if (run.changed_s.length === 0 && run.failed_s === null && planned.length === 0)
    return movable ? (
      <p className="pt-2">
        <Button
          edits
          look="quiet"
          data-testid="plan-change"
          onClick={() => store.edit(`${at}.changes`, withIds("change", [], [{ after_s: Math.round(lasts / 2 / STEP_S) * STEP_S }]))}
        >
          {t`Plan a change-over`}
        </Button>
      </p>
    ) : null;
  const hour = (after: number) => hourAfter(run, after);
  const called = (when: string) =>
    run.pressure_pa.length > 0 ? t`change over ${when}` : run.reserve === null ? t`change ${when}` : t`refuel ${when}`;
  // What is planned stands where it is planned, whether or not the gas lasts until then.
  const marks = movable
    ? [...planned.map((c) => Number(c["after_s"])).sort((a, b) => a - b), ...run.changed_s.slice(planned.length)]
    : [...run.changed_s];
  const move = (n: number, to: number) => {
    // It stays between its neighbours: one that passed another would be another.
    const least = (marks[n - 1] ?? 0) + STEP_S;
    const most = Math.max(least, (marks[n + 1] ?? whole) - STEP_S);
    const after = Math.min(Math.max(least, Math.round(to / STEP_S) * STEP_S), most);
    setHeld({ n, after });
    // Those before it are planned with it, at the hours they have.
    const kept = marks.slice(0, Math.max(planned.length, n + 1));
    kept[n] = after;
    const entries: Document[] = kept.map((s) => ({ after_s: s }));
    store.edit(`${at}.changes`, withIds("change", [], entries));
  };
  const followed = (n: number) => (e: PointerEvent<HTMLButtonElement>) => {
    const left = strip.current?.getBoundingClientRect().left;
    if (left === undefined || !e.currentTarget.hasPointerCapture(e.pointerId)) return;
    const to = ((e.clientX - left - plot.left) / plot.width) * lasts;
    if (Math.round(to / STEP_S) * STEP_S !== held?.after) move(n, to);
  };
  const keys = (n: number, after: number) => (e: KeyboardEvent) => {
    const by = { ArrowLeft: -STEP_S, ArrowDown: -STEP_S, ArrowRight: STEP_S, ArrowUp: STEP_S, PageUp: 3600, PageDown: -3600 }[
      e.key
    ];
    if (by === undefined) return;
    e.preventDefault();
    move(n, after + by);
  };
  const place = (after: number) => ({ left: plot.left + (Math.min(after, lasts) / lasts) * plot.width });
  return (
    <div className="pt-1">
      <div ref={strip} className="relative h-14 touch-none select-none" data-testid="changes">
        {marks.map((s, n) => {
          const after = held?.n === n ? held.after : s;
          const far = after > lasts / 2 ? "-translate-x-full pr-1.5" : "pl-1.5";
          return (
            <span key={n} className="absolute inset-y-0" style={place(after)}>
              <span aria-hidden className="absolute inset-y-0 w-px bg-note" />
              {movable ? (
                <button
                  type="button"
                  role="slider"
                  data-testid="change"
                  aria-label={t`Change-over ${n + 1}`}
                  aria-valuemin={STEP_S}
                  aria-valuemax={whole - STEP_S}
                  aria-valuenow={after}
                  aria-valuetext={t`${hour(after)}, after ${q.show(after, "duration")}`}
                  className="absolute -left-6 top-2 grid size-12 cursor-ew-resize place-items-center"
                  onPointerDown={(e) => {
                    e.currentTarget.setPointerCapture(e.pointerId);
                    setHeld({ n, after });
                  }}
                  onPointerMove={followed(n)}
                  onPointerUp={() => setHeld(null)}
                  onPointerCancel={() => setHeld(null)}
                  onKeyDown={keys(n, after)}
                  onBlur={() => setHeld(null)}
                >
                  <span aria-hidden className="grid h-7 w-5 place-items-center rounded-sm border-[1.5px] border-frame bg-card">
                    <span className="h-3 w-1 border-x border-frame" />
                  </span>
                </button>
              ) : null}
              {marks.length > MOST_WORDS && n > 0 ? null : (
                <span className={`absolute top-0 whitespace-nowrap text-tiny ${movable ? "" : "top-3"} ${far}`}>
                  {called(hour(after))}
                </span>
              )}
            </span>
          );
        })}
        {run.failed_s === null ? null : (
          <span className="absolute inset-y-0" style={place(run.failed_s)}>
            <span aria-hidden className="absolute inset-y-0 w-px bg-stop" />
            <span
              className={`absolute bottom-0 whitespace-nowrap text-tiny font-semibold text-stop ${run.failed_s > lasts / 2 ? "-translate-x-full pr-1.5" : "pl-1.5"}`}
            >
              {t`fails at ${hour(run.failed_s)}`}
            </span>
          </span>
        )}
      </div>
      {movable ? (
        <p className="flex flex-wrap items-center gap-x-3 text-small text-muted">
          {t`Move a change-over to the hour when somebody can be there. The charts show what comes of it.`}
          {planned.length > 0 ? (
            <Button edits look="quiet" data-testid="changes-when-due" onClick={() => store.edit(`${at}.changes`, [])}>
              {t`Change over when it is due instead`}
            </Button>
          ) : null}
        </p>
      ) : null}
    </div>
  );
}
