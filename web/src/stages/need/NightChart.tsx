import { t } from "@lingui/core/macro";
import type { Row } from "../../api/client";
import "uplot/dist/uPlot.min.css";
import { memo, useEffect, useRef } from "react";
import { useQuantities } from "../../app/context";
import { axis, colour, drawn, word } from "../../ui/chart";
import { clock } from "../../ui/hour";

export type Night = Row<"nights">;

const DAY_S = 86_400;

/** How warm each space is through a night at the coldest hour, and when the heat must come on. */
export const NightChart = memo(function NightChart({ nights }: { nights: Night[] }) {
  const q = useQuantities();
  const falling = nights.filter((n) => !n.stays_on);
  return (
    <>
      {falling.map((n) => (
        <figure key={n.space} className="mb-4 border-t-[1.5px] border-frame">
          <figcaption className="pt-1 text-small text-muted">
            {n.used
              ? t`${n.name} through a night: heat off at ${clock(n.from_s)}, ${n.heat_on_s === null ? "" : t`on again at ${clock(n.heat_on_s)}, `}lowest ${q.show(n.lowest_c, "temperature")}`
              : t`${n.name} if the heat stops at ${clock(n.from_s)} in the coldest hour`}
          </figcaption>
          <Curve night={n} />
        </figure>
      ))}
    </>
  );
});

function Curve({ night }: { night: Night }) {
  const box = useRef<HTMLDivElement>(null);
  const q = useQuantities();
  useEffect(() => {
    if (!box.current) return;
    const scaled = (c: number) => Number(q.split(c, "temperature", 6).number.replace("−", "-").replaceAll(",", ""));
    const times = night.inside_c.map((_, n) => night.from_s + n * night.step_s);
    const inside = night.inside_c.map(scaled);
    const outside = scaled(night.outside_c);
    const last = times.at(-1) ?? night.from_s;
    const onAt = night.heat_on_s === null ? null : night.heat_on_s + (night.heat_on_s < night.from_s ? DAY_S : 0);
    const freezing = scaled(0);
    return drawn(
      box.current,
      190,
      {
        scales: { x: { time: false }, y: { range: (_u, low, high) => [Math.min(low, outside) - 4, high + 3] } },
        axes: [
          axis({ incrs: [3600, 7200, 10_800, 14_400], values: (_u, ticks) => ticks.map(clock) }),
          axis({ size: 50, label: q.split(0, "temperature").unit }),
        ],
        series: [
          {},
          { label: "inside", stroke: colour("ember"), width: 1.8, points: { show: false } },
          { label: "outside", stroke: colour("gas"), width: 1.2, points: { show: false } },
        ],
        hooks: {
          draw: [
            (u) => {
              const halfway = Math.max(
                1,
                inside.findIndex((c) => c < ((inside[0] ?? 0) + outside) / 2),
              );
              word(u, "inside", times[halfway] ?? night.from_s, inside[halfway] ?? 0, "ember-ink", 8, -2);
              word(u, "outside", times[Math.floor(times.length * 0.6)] ?? night.from_s, outside, "gas", 6, 13);
              if (freezing > outside && freezing < Math.max(...inside)) {
                u.ctx.fillStyle = colour("edge");
                u.ctx.fillRect(u.bbox.left, u.valToPos(freezing, "y", true), u.bbox.width, devicePixelRatio);
                word(u, "frost", last, freezing, "muted", -34, -4);
              }
              if (onAt !== null && onAt <= last) {
                u.ctx.fillStyle = colour("ember-ink");
                u.ctx.fillRect(u.valToPos(onAt, "x", true), u.bbox.top, devicePixelRatio, u.bbox.height);
                word(u, t`heat on ${clock(onAt)}`, onAt, Math.max(...inside), "ember-ink", -78, 2);
              }
            },
          ],
        },
      },
      [times, inside, inside.map(() => outside)],
    );
  }, [night, q]);
  return (
    <div
      ref={box}
      className="w-0 min-w-full overflow-hidden"
      role="img"
      aria-label={t`${night.name}: inside ${q.show(night.inside_c[0] ?? 0, "temperature")} at ${clock(night.from_s)}, lowest ${q.show(night.lowest_c, "temperature")}, outside ${q.show(night.outside_c, "temperature")}`}
    />
  );
}
