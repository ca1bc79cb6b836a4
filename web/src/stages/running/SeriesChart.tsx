// One series of the log over any window: as many points as the screen can show, zoomed by wheel, pinch and keys; the same as a table.
import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import "uplot/dist/uPlot.min.css";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Select } from "@headlessui/react";
import { useEffect, useMemo, useRef, useState } from "react";
import { type ChartData, type SeriesLine, answer, api } from "../../api/client";
import { dated, moment, useQuantities, useSurroundings } from "../../app/context";
import { useJobStore, useRecords } from "../../job/context";
import { Button } from "../../ui/controls";
import { axis, colour, drawn, word } from "../../ui/chart";
import { labelOf, quantityOf } from "./kinds";
import type { Names } from "./names";
import { type Span, clamped, moved, zoomed } from "./span";

const HEIGHT = 240;
const DAY_S = 86_400;
/** What happens at a moment and is drawn as a tick. */
const TICKS = new Set(["changed_over", "delivered", "safety_test", "serviced", "meter_changed"]);

export function SeriesChart({ names }: { names: Names }) {
  const { id } = useJobStore();
  const { vocabulary } = useSurroundings();
  const { entries } = useRecords();
  const sent = entries.filter((e) => e.sent).length;
  const found = useQuery({
    queryKey: ["series", id, sent],
    queryFn: () => answer(api.GET("/api/jobs/{job_id}/series", { params: { path: { job_id: id } } })),
    placeholderData: keepPreviousData,
  });
  const [chosen, choose] = useState("");
  const all = useMemo(
    () => (found.data ?? []).filter((s) => quantityOf(vocabulary.log_kinds.find((k) => k.kind === s.kind))?.kind),
    [found.data, vocabulary],
  );
  const first = all.find((s) => s.kind === "air" && s.place === "out") ?? all[0];
  const series = all.find((s) => keyOf(s) === chosen) ?? first;
  if (!series) return null;
  const nameOf = (s: SeriesLine) => {
    const kind = vocabulary.log_kinds.find((k) => k.kind === s.kind);
    const label = labelOf({ kind: s.kind, where: s.place || null, ...(s.vessel > 0 ? { vessel: s.vessel } : {}) }, kind);
    const several = all.filter((x) => x.kind === s.kind && x.place === s.place && x.vessel === s.vessel).length > 1;
    return several && s.subject ? `${label}, ${names.get(s.subject) ?? s.subject}` : label;
  };
  return (
    <section data-testid="chart" aria-label={t`Chart`} aria-live="off" className="mt-4 border-t-[1.5px] border-frame pt-2">
      <div className="flex flex-wrap items-center gap-2 pb-1">
        <h3 className="mr-auto font-bold">{t`Over time`}</h3>
        <Select
          aria-label={t`Reading`}
          value={keyOf(series)}
          onChange={(e) => choose(e.target.value)}
          className="max-w-72 rounded-sm border border-edge bg-card px-1 py-0.5"
        >
          {all.map((s) => (
            <option key={keyOf(s)} value={keyOf(s)}>
              {nameOf(s)}
            </option>
          ))}
        </Select>
      </div>
      <Window key={keyOf(series)} job={id} series={series} name={nameOf(series)} />
    </section>
  );
}

const keyOf = (s: SeriesLine) => `${s.kind}|${s.subject}|${s.place}|${s.vessel}`;

interface WindowProps {
  job: string;
  series: SeriesLine;
  name: string;
}

function Window({ job, series, name }: WindowProps) {
  const whole: Span = { begin: Date.parse(series.begins_at) / 1000, end: Date.parse(series.newest_at) / 1000 + 60 };
  const [span, setSpan] = useState<Span>(whole);
  const [table, showTable] = useState(false);
  const box = useRef<HTMLDivElement>(null);
  const shown = useRef(span);
  shown.current = span;
  const points = 600;
  const found = useQuery({
    queryKey: ["window", job, keyOf(series), Math.round(span.begin), Math.round(span.end), series.newest_at],
    queryFn: () =>
      answer(
        api.GET("/api/jobs/{job_id}/window", {
          params: {
            path: { job_id: job },
            query: {
              kind: series.kind,
              subject: series.subject,
              place: series.place,
              vessel: series.vessel,
              begin: iso(span.begin),
              end: iso(span.end),
              points,
            },
          },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const go = (next: Span) => setSpan(clamped(next, whole));
  const zoom = (by: number, at = 0.5) => go(zoomed(shown.current, by, at));
  const move = (by: number) => go(moved(shown.current, by));
  useGestures(
    box,
    (by, at) => setSpan(clamped(zoomed(shown.current, by, at), whole)),
    (by) => setSpan(clamped(moved(shown.current, by), whole)),
  );
  const keys = (e: React.KeyboardEvent) => {
    const act: Record<string, () => void> = {
      "+": () => zoom(0.5),
      "=": () => zoom(0.5),
      "-": () => zoom(2),
      ArrowLeft: () => move(-0.25),
      ArrowRight: () => move(0.25),
      Home: () => go(whole),
    };
    const found_ = act[e.key];
    if (!found_) return;
    e.preventDefault();
    found_();
  };
  return (
    <>
      <div
        ref={box}
        tabIndex={0}
        role="group"
        aria-label={t`${name}: + and − zoom, arrows move, Home shows all`}
        onKeyDown={keys}
        className="w-0 min-w-full touch-pan-y overflow-hidden border-b border-rule"
      >
        {found.data ? <Drawing data={found.data} span={span} series={series} name={name} /> : <div style={{ height: HEIGHT }} />}
      </div>
      <p className="flex flex-wrap items-center gap-2 py-1 text-small">
        <span className="mr-auto text-muted" role="status">
          <Trans>
            {moment(span.begin)} to {moment(span.end)}
            {found.data ? t`, ${found.data.count.reduce((a, n) => a + n, 0).toLocaleString("en")} readings` : ""}
          </Trans>
        </span>
        <Button onClick={() => zoom(0.5)}>{t`Zoom in`}</Button>
        <Button onClick={() => zoom(2)}>{t`Zoom out`}</Button>
        <Button onClick={() => go(whole)}>{t`Show all`}</Button>
        <Button data-testid="as-table" onClick={() => showTable(!table)}>
          {table ? t`Hide table` : t`Show as a table`}
        </Button>
      </p>
      {found.isError ? (
        <p className="text-muted">{t`The chart comes from the server, which does not answer now. The log is below.`}</p>
      ) : null}
      {table && found.data ? <Table data={found.data} kind={series.kind} name={name} /> : null}
    </>
  );
}

const iso = (s: number) => new Date(s * 1000).toISOString();

/** Wheel and pinch: nearer or farther round the finger; dragging moves. */
function useGestures(
  box: React.RefObject<HTMLDivElement | null>,
  zoom: (by: number, at: number) => void,
  move: (by: number) => void,
) {
  const act = useRef({ zoom, move });
  act.current = { zoom, move };
  useEffect(() => {
    const at = box.current;
    if (!at) return;
    const share = (x: number) => (x - at.getBoundingClientRect().left) / at.clientWidth;
    const wheel = (e: WheelEvent) => {
      e.preventDefault();
      if (Math.abs(e.deltaX) > Math.abs(e.deltaY)) act.current.move(e.deltaX / at.clientWidth);
      else act.current.zoom(e.deltaY > 0 ? 1.25 : 0.8, share(e.clientX));
    };
    const down = new Map<number, number>();
    const press = (e: PointerEvent) => down.set(e.pointerId, e.clientX);
    const drag = (e: PointerEvent) => {
      const before = down.get(e.pointerId);
      if (before === undefined) return;
      if (down.size === 1) act.current.move((before - e.clientX) / at.clientWidth);
      else {
        const [other] = [...down].filter(([id]) => id !== e.pointerId).map(([, x]) => x);
        if (other !== undefined && Math.abs(e.clientX - other) > 8)
          act.current.zoom(Math.abs(before - other) / Math.abs(e.clientX - other), share((e.clientX + other) / 2));
      }
      down.set(e.pointerId, e.clientX);
    };
    const lift = (e: PointerEvent) => down.delete(e.pointerId);
    at.addEventListener("wheel", wheel, { passive: false });
    at.addEventListener("pointerdown", press);
    globalThis.addEventListener("pointermove", drag);
    globalThis.addEventListener("pointerup", lift);
    globalThis.addEventListener("pointercancel", lift);
    return () => {
      at.removeEventListener("wheel", wheel);
      at.removeEventListener("pointerdown", press);
      globalThis.removeEventListener("pointermove", drag);
      globalThis.removeEventListener("pointerup", lift);
      globalThis.removeEventListener("pointercancel", lift);
    };
  }, [box]);
}

interface DrawingProps {
  data: ChartData;
  span: Span;
  series: SeriesLine;
  name: string;
}

/** Readings as dots, least and most of each point as a bar, what is planned as a thin line, what is allowed as a band, what was done as ticks. */
function Drawing({ data, span, series, name }: DrawingProps) {
  const { vocabulary } = useSurroundings();
  const { entries, running } = useRecords();
  const { kind } = series;
  const band = (running?.tables["bands"] ?? []).find(
    (b) => b.kind === kind && b.place === series.place && (b.subject === series.subject || series.subject === ""),
  );
  const box = useRef<HTMLDivElement>(null);
  const q = useQuantities();
  const quantity = quantityOf(vocabulary.log_kinds.find((k) => k.kind === kind))?.kind ?? "factor";
  const ticks = useMemo(
    () =>
      entries
        .filter((e) => TICKS.has(e.kind))
        .map((e) => ({ at: Date.parse(e.at) / 1000, title: vocabulary.log_kinds.find((k) => k.kind === e.kind)?.title ?? "" })),
    [entries, vocabulary],
  );
  useEffect(() => {
    if (!box.current) return;
    const zero = Number(q.split(0, quantity, 9).number.replaceAll(",", "").replace("−", "-"));
    const one = Number(q.split(1000, quantity, 9).number.replaceAll(",", "").replace("−", "-"));
    const scaled = (v: number) => zero + ((one - zero) / 1000) * v;
    const [least, most] = [data.least.map(scaled), data.most.map(scaled)];
    const held = [band?.least, band?.most, band?.planned].flatMap((v) => (typeof v === "number" ? [scaled(v)] : []));
    const low = Math.min(...least, ...held);
    const high = Math.max(...most, ...held);
    const room = Math.max((high - low) * 0.08, Math.abs(high) * 0.01, 1e-6);
    return drawn(
      box.current,
      HEIGHT,
      {
        scales: { x: { time: false, range: () => [span.begin, span.end] }, y: { range: () => [low - room, high + room] } },
        axes: [
          axis({
            space: 90,
            values: (_u, all) =>
              all.map((t) =>
                span.end - span.begin < 2 * DAY_S ? moment(t, "short") : dated(t, { day: "numeric", month: "short" }),
              ),
          }),
          axis({ size: 56, label: `${name}, ${q.split(1, quantity).unit}` }),
        ],
        series: [{}, { stroke: colour("ink"), paths: () => null, points: { show: true, size: 5, fill: colour("ink") } }],
        hooks: {
          drawClear: [
            (u) => {
              const at = (v: number) => u.valToPos(scaled(v), "y", true);
              if (band && (band.least !== null || band.most !== null)) {
                const top = band.most === null ? u.bbox.top : at(band.most);
                const bottom = band.least === null ? u.bbox.top + u.bbox.height : at(band.least);
                u.ctx.fillStyle = colour("gas-wash");
                u.ctx.fillRect(u.bbox.left, top, u.bbox.width, bottom - top);
              }
              if (typeof band?.planned === "number") {
                u.ctx.fillStyle = colour("gas");
                u.ctx.fillRect(u.bbox.left, at(band.planned), u.bbox.width, devicePixelRatio);
              }
              u.ctx.strokeStyle = colour("edge");
              u.ctx.lineWidth = Math.max(1, devicePixelRatio);
              u.ctx.beginPath();
              data.at_s.forEach((t, n) => {
                const x = u.valToPos(t, "x", true);
                u.ctx.moveTo(x, u.valToPos(least[n] as number, "y", true));
                u.ctx.lineTo(x, u.valToPos(most[n] as number, "y", true));
              });
              u.ctx.stroke();
            },
          ],
          draw: [
            (u) => {
              u.ctx.fillStyle = colour("gas");
              for (const tick of ticks) {
                if (tick.at < span.begin || tick.at > span.end) continue;
                const x = u.valToPos(tick.at, "x", true);
                u.ctx.fillRect(x - 1, u.bbox.top + u.bbox.height - 10 * devicePixelRatio, 2, 10 * devicePixelRatio);
              }
              if (typeof band?.planned === "number") word(u, "planned", span.begin, scaled(band.planned), "gas", 6, -4);
              if (typeof band?.most === "number") word(u, t`at most`, span.begin, scaled(band.most), "gas", 6, 12);
              const last = ticks.findLast((t) => t.at >= span.begin && t.at <= span.end);
              if (last) word(u, last.title.toLowerCase(), last.at, low - room, "gas", -70, -14);
            },
          ],
        },
      },
      [data.at_s, data.mean.map(scaled)],
    );
    // oxlint-disable-next-line react-hooks/exhaustive-deps -- the band by what it says
  }, [data, span, q, quantity, ticks, name, JSON.stringify(band)]);
  const seen =
    data.count.length > 0
      ? t`from ${q.show(Math.min(...data.least), quantity, 4)} to ${q.show(Math.max(...data.most), quantity, 4)}`
      : t`no reading`;
  return <div ref={box} role="img" aria-label={`${name}: ${seen}`} />;
}

function Table({ data, kind, name }: { data: ChartData; kind: string; name: string }) {
  const { vocabulary } = useSurroundings();
  const q = useQuantities();
  const quantity = quantityOf(vocabulary.log_kinds.find((k) => k.kind === kind))?.kind ?? "factor";
  return (
    <div className="max-h-80 overflow-auto" tabIndex={0} role="group" aria-label={t`${name} as a table`}>
      <table className="w-full text-right text-small">
        <thead>
          <tr className="border-b border-frame">
            {[t`At`, t`Lowest`, t`Average`, t`Highest`, t`Readings`].map((h) => (
              <th key={h} scope="col" className="px-2 first:text-left">
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {data.at_s.map((t, n) => (
            <tr key={t} className="border-b border-hair">
              <th scope="row" className="px-2 text-left font-normal">
                {moment(t)}
              </th>
              <td className="px-2">{q.show(data.least[n] ?? 0, quantity, 4)}</td>
              <td className="px-2">{q.show(data.mean[n] ?? 0, quantity, 4)}</td>
              <td className="px-2">{q.show(data.most[n] ?? 0, quantity, 4)}</td>
              <td className="px-2">{data.count[n]}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
