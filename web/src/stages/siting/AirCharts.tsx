// The night inside: wet heat, its flue gas in the air, beside the same heat dry.
import { t } from "@lingui/core/macro";
import type { Row } from "../../api/client";
import "uplot/dist/uPlot.min.css";
import { memo, useEffect, useRef } from "react";
import { useQuantities } from "../../app/context";
import { axis, colour, drawn, word } from "../../ui/chart";

export type Course = Row<"air">;

const HEIGHT = 170;
const HOUR_S = 3600;

/** CO2 with its limit, and dew points with the coldest skin. */
export const AirCharts = memo(function AirCharts({ course }: { course: Course | null }) {
  if (!course) return null;
  return (
    <div className="mb-4 border-t-[1.5px] border-frame">
      <Chart
        course={course}
        title={t`${course.name}: CO₂ over time`}
        kind="share_ppm"
        wet={course.co2}
        dry={course.co2_dry}
        limit={{ value: course.co2_most, word: t`the most` }}
      />
      <Chart
        course={course}
        title={t`${course.name}: dew point`}
        kind="temperature"
        wet={course.dew_c}
        dry={course.dew_dry_c}
        limit={course.skin_c === null ? null : { value: course.skin_c, word: t`inner side of ${course.skin}` }}
      />
    </div>
  );
});

interface ChartProps {
  course: Course;
  title: string;
  kind: string;
  wet: number[];
  dry: number[];
  limit: { value: number; word: string } | null;
}

function Chart({ course, title, kind, wet, dry, limit }: ChartProps) {
  const box = useRef<HTMLDivElement>(null);
  const q = useQuantities();
  useEffect(() => {
    if (!box.current) return;
    const scaled = (v: number) => Number(q.split(v, kind, 6).number.replace("−", "-").replaceAll(",", ""));
    const hours = wet.map((_, n) => (n * course.step_s) / HOUR_S);
    const lines = [
      { words: t`wet heat: flue gas inside`, token: "ember", values: wet.map(scaled) },
      { words: t`dry heat: flue gas outside`, token: "gas", values: dry.map(scaled) },
    ];
    const most = limit ? scaled(limit.value) : null;
    const all = [...lines.flatMap((l) => l.values), ...(most === null ? [] : [most])];
    const [low, high] = [Math.min(...all), Math.max(...all)];
    const room = Math.max((high - low) * 0.12, 1);
    return drawn(
      box.current,
      HEIGHT,
      {
        scales: { x: { time: false }, y: { range: () => (kind === "temperature" ? [low - room, high + room] : [0, high + room]) } },
        axes: [axis({ size: 26, labelSize: 14, label: "h" }), axis({ size: 60, label: q.split(0, kind).unit })],
        series: [{}, ...lines.map((l) => ({ label: l.words, stroke: colour(l.token), width: 1.8, points: { show: false } }))],
        hooks: {
          drawClear: [
            (u) => {
              if (most === null) return;
              u.ctx.fillStyle = colour("ember-wash");
              const y = u.valToPos(most, "y", true);
              u.ctx.fillRect(u.bbox.left, u.bbox.top, u.bbox.width, Math.max(0, y - u.bbox.top));
            },
          ],
          draw: [
            (u) => {
              for (const [n, l] of lines.entries()) {
                const at = Math.floor(l.values.length * (0.5 + 0.1 * n));
                word(u, l.words, hours[at] ?? 0, l.values[at] ?? 0, l.token === "gas" ? "gas" : "ember-ink", 4, n === 0 ? 14 : -6);
              }
              if (most !== null && limit) word(u, `${limit.word} ${q.show(limit.value, kind)}`, 0, most, "ember-ink", 6, -4);
            },
          ],
        },
      },
      [hours, ...lines.map((l) => l.values)],
    );
  }, [course, wet, dry, limit, kind, q]);
  return (
    <figure className="mb-2">
      <figcaption className="pt-1 text-small text-muted">{title}</figcaption>
      <div
        ref={box}
        className="w-0 min-w-full overflow-hidden"
        role="img"
        aria-label={t`${title}: wet at the end ${q.show(wet.at(-1) ?? 0, kind)}, dry ${q.show(dry.at(-1) ?? 0, kind)}${limit ? `; ${limit.word} ${q.show(limit.value, kind)}` : ""}`}
      />
    </figure>
  );
}
