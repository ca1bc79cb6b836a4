import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import type { Row } from "../../api/client";
import "uplot/dist/uPlot.min.css";
import { memo, useCallback, useEffect, useMemo, useRef, useState } from "react";
import type uPlot from "uplot";
import { useQuantities } from "../../app/context";
import { axis, colour, drawn, word } from "../../ui/chart";
import { CaptionedTable } from "../../ui/CaptionedTable";
import { clock, dayAndClock, hourAfter } from "../../ui/hour";
import { useLittleRoom } from "../../app/media";
import { Changes, type NightRun, type Plot } from "./Changes";

type InletAhead = Row<"inlet_ahead">;

const ROW_PX = 112;
const HOURS_PX = 30;
const RIGHT_PX = 14;
const WORD_PX = 16;

interface NightChartsProps {
  run: NightRun | null;
  /** The machine whose inlet gets lowest; null where no gas comes from cylinders. */
  inlet: InletAhead | null;
  /** Where the hours stand in the job. */
  at: string;
}

/** The hours ahead on one axis of time: the air, what burns, what is left, the pressure; with the changes, which can be moved. */
export const NightCharts = memo(function NightCharts({ run, inlet, at }: NightChartsProps) {
  const little = useLittleRoom();
  const [plot, setPlot] = useState<Plot | null>(null);
  // A chart is drawn anew when what it is given is another object.
  const rows = useMemo(() => (run ? rowsOf(run, inlet) : []), [run, inlet]);
  const placed = useCallback((now: Plot) => setPlot((was) => (was?.left === now.left && was.width === now.width ? was : now)), []);
  if (!run || run.outside_c.length === 0) return null;
  // On a phone what decides: what is left, and what pushes it out or draws it.
  const shown = little ? rows.slice(0, 2) : rows;
  return (
    <section data-testid="hours-ahead" aria-label={t`The hours ahead`} className="mb-4 border-t-[1.5px] border-frame">
      <Changes run={run} at={at} plot={plot} />
      {shown.map((row, n) => (
        <Chart key={row.title} run={run} {...row} last={n === shown.length - 1} placed={n === 0 ? placed : null} />
      ))}
    </section>
  );
});

function rowsOf(run: NightRun, inlet: InletAhead | null): RowOfHours[] {
  const load: RowOfHours = {
    title: t`Burned and used, as heat`,
    kind: "heat_flow",
    lines: [{ word: t`load`, token: "ember", values: run.load_w }],
    limit: null,
  };
  const fill = { kind: "fraction", lines: [{ word: t`fill`, token: "ink", values: run.fill }] };
  const outside = { word: t`outside`, token: "gas", values: run.outside_c };
  if (run.pressure_pa.length === 0)
    return [
      {
        ...fill,
        title: run.reserve === null ? t`Fill of the cartridge` : t`Fill of the tanks`,
        limit: run.reserve === null ? null : { value: run.reserve, word: t`refuel` },
      },
      load,
      { title: t`Outside temperature`, kind: "temperature", lines: [outside], limit: null },
    ];
  return [
    {
      title: t`Pressure in the cylinders in use`,
      kind: "source_pressure",
      lines: [{ word: t`pressure`, token: "ember", values: run.pressure_pa }],
      limit: run.least_pa === null ? null : { value: run.least_pa, word: t`lowest inlet of the regulator` },
    },
    {
      ...fill,
      title: t`Fill of the cylinders in use`,
      limit: run.reserve === null ? null : { value: run.reserve, word: t`reserve` },
    },
    ...(inlet ? [ofInlet(inlet)] : []),
    load,
    {
      title: t`Liquid and outside temperature`,
      kind: "temperature",
      lines: [{ word: t`liquid`, token: "ember", values: run.liquid_c }, outside],
      limit: null,
    },
  ];
}

const ofInlet = (inlet: InletAhead): RowOfHours => ({
  title: t`Pressure at the inlet of ${inlet.name}, all on`,
  kind: "gas_pressure",
  lines: [{ word: t`inlet`, token: "ember", values: inlet.pressure_pa }],
  limit: { value: inlet.least_pa, word: t`lowest inlet` },
  most: { value: inlet.most_pa, word: t`highest inlet` },
});

export type Due = Row<"schedule">;

const dueWords = (): Record<string, string> => ({
  begin: t`Start: cylinders full, joints checked`,
  frost: t`Frost forms: check the cylinders`,
  coldest: t`Coldest hour`,
  reserve_takes_over: t`Reserve takes over: bring full cylinders`,
  refuel: t`Refuel: let the machine cool first`,
  cartridge: t`Change the cartridge outdoors, away from flames`,
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

interface RowOfHours {
  title: string;
  kind: string;
  lines: { word: string; token: string; values: number[] }[];
  /** Below it a band is drawn. */
  limit: { value: number; word: string } | null;
  /** Above it a band is drawn. */
  most?: { value: number; word: string };
}

interface ChartProps extends RowOfHours {
  run: NightRun;
  /** Whether the hours stand under it. */
  last: boolean;
  /** Told where its plot lies. */
  placed: ((plot: Plot) => void) | null;
}

const AXIS_PX = 52;

function Chart({ run, title, kind, lines, limit, most, last, placed }: ChartProps) {
  const box = useRef<HTMLDivElement>(null);
  const q = useQuantities();
  useEffect(() => {
    if (!box.current) return;
    const scaled = (v: number) => Number(q.split(v, kind, 6).number.replace("−", "-").replaceAll(",", ""));
    const times = run.outside_c.map((_, n) => run.begins_s + (n + 1) * run.step_s);
    const drawnLines = lines.map((l) => ({ ...l, values: l.values.map(scaled) }));
    const floor = limit ? scaled(limit.value) : null;
    const ceiling = most ? scaled(most.value) : null;
    const mark = (u: uPlot, after: number, token: string) => {
      u.ctx.fillStyle = colour(token);
      u.ctx.fillRect(u.valToPos(run.begins_s + after, "x", true), u.bbox.top, devicePixelRatio, u.bbox.height);
    };
    const hours = {
      incrs: [3600, 7200, 10_800, 14_400, 21_600, 43_200, 86_400],
      values: (_u: uPlot, ticks: number[]) => ticks.map((s) => (last ? clock(s) : "")),
    };
    return drawn(
      box.current,
      last ? ROW_PX + HOURS_PX : ROW_PX,
      {
        padding: [6, RIGHT_PX, 0, 0],
        scales: {
          x: { time: false, range: [run.begins_s, run.begins_s + times.length * run.step_s] },
          y: {
            range: (_u, low, high) =>
              kind === "temperature" ? [low - 3, high + 3] : [0, Math.max(high, ceiling ?? 0, (floor ?? 0) * 1.3) * 1.1],
          },
        },
        axes: [axis({ ...hours, size: last ? HOURS_PX : 4 }), axis({ size: AXIS_PX, label: q.split(0, kind).unit })],
        series: [{}, ...drawnLines.map((l) => ({ label: l.word, stroke: colour(l.token), width: 1.8, points: { show: false } }))],
        hooks: {
          drawClear: [
            (u) => {
              if (floor === null) return;
              u.ctx.fillStyle = colour("ember-wash");
              const top = u.valToPos(floor, "y", true);
              u.ctx.fillRect(u.bbox.left, top, u.bbox.width, u.bbox.top + u.bbox.height - top);
              if (ceiling !== null)
                u.ctx.fillRect(u.bbox.left, u.bbox.top, u.bbox.width, u.valToPos(ceiling, "y", true) - u.bbox.top);
            },
          ],
          draw: [
            (u) => {
              placed?.({ left: u.bbox.left / devicePixelRatio, width: u.bbox.width / devicePixelRatio });
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
              if (floor !== null) {
                // In a band that is too narrow for it the word stands above.
                const narrow = u.valToPos(0, "y") - u.valToPos(floor, "y") < WORD_PX;
                word(u, limit?.word ?? "", times[0] ?? 0, floor, "ember-ink", 6, narrow ? -4 : 13);
              }
              if (ceiling !== null) word(u, most?.word ?? "", times[0] ?? 0, ceiling, "ember-ink", 6, 13);
              for (const s of run.changed_s) mark(u, s, "note");
              if (run.failed_s !== null) mark(u, run.failed_s, "stop");
            },
          ],
        },
      },
      [times, ...drawnLines.map((l) => l.values)],
    );
  }, [run, lines, limit, most, kind, last, placed, q]);
  const end = lines[0]?.values.at(-1);
  return (
    <figure>
      <figcaption className="pt-1 text-small text-muted">{title}</figcaption>
      <div
        ref={box}
        className="w-0 min-w-full overflow-hidden"
        role="img"
        aria-label={t`${title}: at the end ${end === undefined ? "" : q.show(end, kind)}${run.failed_s === null ? "" : t`, fails at ${hourAfter(run, run.failed_s)}`}`}
      />
    </figure>
  );
}
