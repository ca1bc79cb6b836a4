import { t } from "@lingui/core/macro";
import "uplot/dist/uPlot.min.css";
import { useEffect, useRef } from "react";
import { moment, useQuantities } from "../../app/context";
import { axis, colour, drawn, word } from "../../ui/chart";

export interface WeightChartProps {
  /** Fuel left in the whole bank at each weighing. */
  weights: { at_s: number; left_kg: number }[];
  reserve_kg: number;
  full_kg: number;
  /** Planned use at full fire: the thin line falls with it from the first weighing. */
  planned_kg_per_s: number | null;
  /** When the reserve is reached, likeliest. */
  change_over_s: number | null;
}

/** Fuel left against time: readings as dots, the plan as a thin line, the reserve as a band. */
export function WeightChart({ weights, reserve_kg, full_kg, planned_kg_per_s, change_over_s }: WeightChartProps) {
  const box = useRef<HTMLDivElement>(null);
  const q = useQuantities();
  useEffect(() => {
    const first = weights[0];
    const last = weights.at(-1);
    if (!box.current || !first || !last) return;
    const unit = q.split(1, "mass").unit;
    const scaled = (kg: number) => (kg * Number(q.split(1000, "mass", 7).number.replaceAll(",", ""))) / 1000;
    const end = Math.max(last.at_s, change_over_s ?? 0) + 3600;
    const planEnd = planned_kg_per_s ? Math.min(end, first.at_s + (first.left_kg - reserve_kg) / planned_kg_per_s) : end;
    const times = [
      ...new Set([...weights.map((w) => w.at_s), first.at_s, planEnd, last.at_s, ...(change_over_s ? [change_over_s] : []), end]),
    ].sort((a, b) => a - b);
    const read = new Map(weights.map((w) => [w.at_s, scaled(w.left_kg)]));
    const plan = times.map((t) =>
      planned_kg_per_s && t <= planEnd ? scaled(first.left_kg - planned_kg_per_s * (t - first.at_s)) : null,
    );
    const ahead = times.map((t) =>
      change_over_s && change_over_s > last.at_s && (t === last.at_s || t === change_over_s)
        ? scaled(t === last.at_s ? last.left_kg : reserve_kg)
        : null,
    );
    const at = (u: Parameters<typeof word>[0], text: string, t: number, kg: number, token: string, dx = 6, dy = -6) =>
      word(u, text, t, scaled(kg), token, dx, dy);
    return drawn(
      box.current,
      250,
      {
        scales: { y: { range: [0, scaled(full_kg) * 1.05] } },
        axes: [
          axis({ space: 70, values: (_u, ticks) => ticks.map((t) => moment(t, "short").replace(/,? 00:00$/, "")) }),
          axis({ size: 56, label: t`fuel left, ${unit}` }),
        ],
        series: [
          {},
          {
            label: "read",
            stroke: colour("ink"),
            fill: colour("ink"),
            paths: () => null,
            points: { show: true, size: 7, fill: colour("ink") },
          },
          { label: "plan", stroke: colour("gas"), width: 1.2, spanGaps: true, points: { show: false } },
          { label: "ahead", stroke: colour("ember"), width: 1.6, dash: [5, 4], spanGaps: true, points: { show: false } },
        ],
        hooks: {
          drawClear: [
            (u) => {
              u.ctx.fillStyle = colour("ember-wash");
              const top = u.valToPos(scaled(reserve_kg), "y", true);
              u.ctx.fillRect(u.bbox.left, top, u.bbox.width, u.bbox.top + u.bbox.height - top);
            },
          ],
          draw: [
            (u) => {
              at(u, t`reserve: change over`, first.at_s, reserve_kg, "ember-ink", 6, 14);
              at(u, "read", last.at_s, last.left_kg, "ink", 6, -10);
              if (planned_kg_per_s)
                at(u, t`plan, on high`, planEnd, first.left_kg - planned_kg_per_s * (planEnd - first.at_s), "gas", 8, 30);
              if (change_over_s && change_over_s > last.at_s)
                at(u, t`at this rate`, (last.at_s + change_over_s) / 2, (last.left_kg + reserve_kg) / 2, "ember-ink", 10, -10);
            },
          ],
        },
      },
      [times, times.map((t) => read.get(t) ?? null), plan, ahead],
    );
  }, [weights, reserve_kg, full_kg, planned_kg_per_s, change_over_s, q]);
  const last = weights.at(-1);
  return (
    <div
      ref={box}
      role="img"
      aria-label={
        last
          ? t`Fuel left at the last weighing: ${q.show(last.left_kg, "mass")}, reserve ${q.show(reserve_kg, "mass")}`
          : t`No weighing yet`
      }
      className="mb-3 w-0 min-w-full overflow-hidden border-b border-rule"
    />
  );
}
