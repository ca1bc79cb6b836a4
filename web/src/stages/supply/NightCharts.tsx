import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Row } from "../../api/client";
import "uplot/dist/uPlot.min.css";
import { memo, useEffect, useRef } from "react";
import type uPlot from "uplot";
import { useQuantities } from "../../app/context";
import { axis, colour, drawn, word } from "../../ui/chart";
import { CaptionedTable } from "../../ui/CaptionedTable";
import { clock, dayAndClock } from "../../ui/hour";

export type NightRun = Row<"night">;

const HEIGHT = 180;

/** Three charts over one night: temperatures, pressure with its limit, fill with its reserve. */
export const NightCharts = memo(function NightCharts({ run }: { run: NightRun | null }) {
  if (!run || run.outside_c.length === 0) return null;
  if (run.pressure_pa.length === 0) return <OfATank run={run} />;
  return (
    <div className="mb-4 border-t-[1.5px] border-frame">
      <Chart
        run={run}
        title={t`Liquid and outside temperature`}
        kind="temperature"
        lines={[
          { word: "liquid", token: "ember", values: run.liquid_c },
          { word: "outside", token: "gas", values: run.outside_c },
        ]}
        limit={null}
      />
      <Chart
        run={run}
        title={t`Pressure in the cylinders in use`}
        kind="source_pressure"
        lines={[{ word: "pressure", token: "ember", values: run.pressure_pa }]}
        limit={run.least_pa === null ? null : { value: run.least_pa, word: t`lowest inlet of the regulator` }}
      />
      <Chart
        run={run}
        title={t`Fill of the cylinders in use`}
        kind="fraction"
        lines={[{ word: "fill", token: "ink", values: run.fill }]}
        limit={run.reserve === null ? null : { value: run.reserve, word: "reserve" }}
      />
    </div>
  );
});

/** The same of a tank, which has no pressure and whose fuel does not cool as it is used. */
function OfATank({ run }: { run: NightRun }) {
  return (
    <div className="mb-4 border-t-[1.5px] border-frame">
      <Chart
        run={run}
        title={t`Fill of the tanks`}
        kind="fraction"
        lines={[{ word: "fill", token: "ink", values: run.fill }]}
        limit={run.reserve === null ? null : { value: run.reserve, word: t`refuel` }}
        change={t`refuel`}
      />
      <Chart
        run={run}
        title={t`Fuel that goes in, as heat`}
        kind="heat_flow"
        lines={[{ word: t`load`, token: "ember", values: run.load_w }]}
        limit={null}
        change={t`refuel`}
      />
      <Chart
        run={run}
        title={t`Outside temperature`}
        kind="temperature"
        lines={[{ word: "outside", token: "gas", values: run.outside_c }]}
        limit={null}
        change={t`refuel`}
      />
    </div>
  );
}

export type Due = Row<"schedule">;

const dueWords = (): Record<string, string> => ({
  begin: t`Start: cylinders full, joints checked`,
  frost: t`Frost forms: check the cylinders`,
  coldest: t`Coldest hour`,
  reserve_takes_over: t`Reserve takes over: bring full cylinders`,
  refuel: t`Refuel: let the machine cool first`,
  turn_over: t`Turn the change-over valve`,
  swap: t`Swap the cylinders and light again`,
  change: t`Change over first`,
  fails: t`Runs out or starves`,
  end: t`Ends as planned`,
});

/** When someone has to be there, in its order. */
export function Schedule({ due }: { due: Due[] }) {
  const q = useQuantities();
  if (due.length === 0) return null;
  return (
    <CaptionedTable caption={t`When to be on site`}>
      {due.map((d) => (
        <tr key={`${d.what} ${d.after_s}`} className="border-t border-hair">
          <th scope="row" className="whitespace-nowrap py-0.5 pr-3 font-semibold">
            {dayAndClock(d)}
          </th>
          <td className={d.what === "fails" ? "font-semibold text-stop" : ""}>{dueWords()[d.what] ?? d.what}</td>
          <td className="text-right text-muted">
            <Trans>after {q.show(d.after_s, "duration")}</Trans>
          </td>
        </tr>
      ))}
    </CaptionedTable>
  );
}

interface ChartProps {
  run: NightRun;
  title: string;
  kind: string;
  lines: { word: string; token: string; values: number[] }[];
  /** Below it a band is drawn. */
  limit: { value: number; word: string } | null;
  /** What its mark is called where something is changed or filled. */
  change?: string;
}

function Chart({ run, title, kind, lines, limit, change = t`change over` }: ChartProps) {
  const box = useRef<HTMLDivElement>(null);
  const q = useQuantities();
  useEffect(() => {
    if (!box.current) return;
    const scaled = (v: number) => Number(q.split(v, kind, 6).number.replace("−", "-").replaceAll(",", ""));
    const times = run.outside_c.map((_, n) => run.begins_s + (n + 1) * run.step_s);
    const drawnLines = lines.map((l) => ({ ...l, values: l.values.map(scaled) }));
    const floor = limit ? scaled(limit.value) : null;
    const mark = (u: uPlot, after: number, text: string, token: string) => {
      const x = run.begins_s + after;
      u.ctx.fillStyle = colour(token);
      u.ctx.fillRect(u.valToPos(x, "x", true), u.bbox.top, devicePixelRatio, u.bbox.height);
      const top = u.posToVal(u.bbox.top / devicePixelRatio + 12, "y");
      word(u, text, x, top, token, after > (times.length * run.step_s) / 2 ? -8 - text.length * 5.6 : 5, 0);
    };
    return drawn(
      box.current,
      HEIGHT,
      {
        scales: {
          x: { time: false },
          y: {
            range: (_u, low, high) =>
              kind === "temperature" ? [low - 3, high + 3] : [0, Math.max(high, (floor ?? 0) * 1.3) * 1.1],
          },
        },
        axes: [
          axis({ incrs: [3600, 7200, 10_800, 14_400, 21_600, 43_200], values: (_u, ticks) => ticks.map(clock) }),
          axis({ size: 52, label: q.split(0, kind).unit }),
        ],
        series: [{}, ...drawnLines.map((l) => ({ label: l.word, stroke: colour(l.token), width: 1.8, points: { show: false } }))],
        hooks: {
          drawClear: [
            (u) => {
              if (floor === null) return;
              u.ctx.fillStyle = colour("ember-wash");
              const top = u.valToPos(floor, "y", true);
              u.ctx.fillRect(u.bbox.left, top, u.bbox.width, u.bbox.top + u.bbox.height - top);
            },
          ],
          draw: [
            (u) => {
              for (const [n, l] of drawnLines.entries()) {
                const at = Math.min(l.values.length - 1, Math.floor(l.values.length * (0.25 + 0.2 * n)));
                word(
                  u,
                  l.word,
                  times[at] ?? 0,
                  l.values[at] ?? 0,
                  l.token === "gas" ? "gas" : l.token === "ink" ? "ink" : "ember-ink",
                  4,
                  l.token === "gas" ? -6 : 14,
                );
              }
              if (floor !== null) word(u, limit?.word ?? "", times[0] ?? 0, floor, "ember-ink", 6, 13);
              for (const s of run.changed_s) mark(u, s, `${change} ${clock(run.begins_s + s)}`, "note");
              if (run.failed_s !== null) mark(u, run.failed_s, t`fails at ${clock(run.begins_s + run.failed_s)}`, "stop");
            },
          ],
        },
      },
      [times, ...drawnLines.map((l) => l.values)],
    );
  }, [run, lines, limit, kind, change, q]);
  const last = lines[0]?.values.at(-1);
  return (
    <figure className="mb-2">
      <figcaption className="pt-1 text-small text-muted">{title}</figcaption>
      <div
        ref={box}
        className="w-0 min-w-full overflow-hidden"
        role="img"
        aria-label={t`${title}: at the end ${last === undefined ? "" : q.show(last, kind)}${run.failed_s === null ? "" : t`, fails at ${clock(run.begins_s + run.failed_s)}`}`}
      />
    </figure>
  );
}
